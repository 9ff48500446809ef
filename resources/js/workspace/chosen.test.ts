import { describe, expect, it } from 'vitest';
import { chosenAfter, madeOf } from './chosen';

const ids = ['a', 'b', 'c', 'd', 'e'];
const plain = { ctrl: false, shift: false };

describe('marking rows of the tray', () => {
  it('marks one alone, and a second click on it none', () => {
    expect(chosenAfter(['a', 'b'], ids, 'c', plain)).toEqual(['c']);
    expect(chosenAfter(['c'], ids, 'c', plain)).toEqual([]);
  });
  it('adds and takes away with Ctrl', () => {
    expect(chosenAfter(['a'], ids, 'd', { ctrl: true, shift: false })).toEqual(['a', 'd']);
    expect(chosenAfter(['a', 'd'], ids, 'a', { ctrl: true, shift: false })).toEqual(['d']);
  });
  it('marks a range with Shift, either way, and the next range from the same row', () => {
    const range = chosenAfter(['b'], ids, 'd', { ctrl: false, shift: true });
    expect([...range].sort()).toEqual(['b', 'c', 'd']);
    expect(chosenAfter(range, ids, 'a', { ctrl: false, shift: true })).toEqual(['a', 'b']);
    expect(chosenAfter(['elsewhere'], ids, 'b', { ctrl: false, shift: true })).toEqual(['b']);
  });
});

describe('what was made of a datum', () => {
  const datums = [
    { id: '1', name: 'Base', parents: [] },
    { id: '2', name: 'Top', parents: ['Base'] },
    { id: '3', name: 'Middle', parents: ['Base', 'Top'] },
  ];
  it('is told by name, but not what goes with it', () => {
    expect(madeOf(['1'], datums)).toBe('Top and Middle');
    expect(madeOf(['1', '2'], datums)).toBe('Middle');
    expect(madeOf(['3'], datums)).toBeNull();
  });
});
