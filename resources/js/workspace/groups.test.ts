import { describe, expect, it } from 'vitest';
import { grouped } from './groups';

const rows = (...names: string[]) => names.map((name) => ({ name }));
const shape = (names: string[], from = 3) => grouped(rows(...names), from).map((g) => `${g.name}:${g.rows.map((r) => r.name).join('+')}`);

describe('groups in the tray', () => {
  it('leave a short list as it is', () => {
    expect(shape(['Pass 1', 'Pass 2', 'Pass 3'])).toEqual([':Pass 1', ':Pass 2', ':Pass 3']);
  });
  it('hold rows whose names differ in numbers only, at the place of the first', () => {
    expect(shape(['Bush', 'Cap, sweep 1', 'Pass 1', 'Cap, sweep 2', 'Cap, sweep 3', 'Cap, sweep 10'])).toEqual([':Bush', 'Cap, sweep:Cap, sweep 1+Cap, sweep 2+Cap, sweep 3+Cap, sweep 10', ':Pass 1']);
  });
  it('tell passes of both sides apart', () => {
    expect(shape(['Pass 1', 'Pass 2', 'Pass 3', 'Pass 4', 'Pass 5 turned over', 'Pass 6 turned over', 'Pass 7 turned over', 'Pass 8 turned over'])).toHaveLength(2);
  });
  it('lose and double no row', () => {
    const names = Array.from({ length: 200 }, (_, k) => `${['a', 'b', 'pass', ''][k % 4]} ${k}`);
    const all = grouped(rows(...names), 12).flatMap((g) => g.rows.map((r) => r.name));
    expect([...all].sort()).toEqual([...names].sort());
  });
  it('have a word for names that are numbers', () => {
    expect(shape(['1', '2', '3', '4'])).toEqual(['numbered:1+2+3+4']);
  });
});
