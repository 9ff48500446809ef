import { describe, expect, it } from 'vitest';
import { digest, knownTo, type PairLine, type PassLine } from './RegisterReport';

const pair = (moving: string, still: string, overlap: number, residual: number): PairLine => ({ moving, still, overlap, residual });

describe('the report on registering', () => {
  const pairs = [pair('Pass 2', 'Pass 1', 0.5, 0.03), pair('Pass 10', 'Pass 1', 0.12, 0.3), pair('Pass 10', 'Pass 2', 0.4, 0.28)];
  it('lists passes by number, not by letter', () => {
    expect(digest(pairs).names).toEqual(['Pass 1', 'Pass 2', 'Pass 10']);
  });
  it('names the pass whose pairs fit worst and the pair with least in common', () => {
    expect(digest(pairs).worst).toBe('Pass 10');
    expect(digest(pairs).weakest).toMatchObject({ moving: 'Pass 10', still: 'Pass 1' });
  });
  it('finds a pair from either side, and nothing where there is none', () => {
    const { cell } = digest(pairs);
    expect(cell('Pass 1', 'Pass 2')?.residual).toBe(0.03);
    expect(cell('Pass 2', 'Pass 1')?.residual).toBe(0.03);
    expect(digest([pairs[0]!]).cell('Pass 1', 'Pass 10')).toBeNull();
  });
  it('takes the residual of a pass over all of its pairs', () => {
    expect(digest(pairs).mean('Pass 1')).toBeCloseTo(Math.sqrt((0.03 ** 2 + 0.3 ** 2) / 2), 12);
  });
  it('says how well the points know where a pass stands, in which direction least, and when nothing holds it', () => {
    const pass: PassLine = { name: 'Pass 2', residual: 0.04, overlap: 0.5 };
    const standardError = { shiftMm: 0.0123, turnDeg: 0.002, direction: [0, 1, 0] as [number, number, number], held: true };
    expect(knownTo(pass)).toBeNull();
    expect(knownTo({ ...pass, standardError: null })?.short).toBe('stays');
    expect(knownTo({ ...pass, standardError })).toEqual({ short: '± 0.012', long: 'Known to ± 0.012 mm along (0.00, 1.00, 0.00), the direction its points know least, and to ± 0.002° (one standard error)' });
    expect(knownTo({ ...pass, standardError: { ...standardError, held: false } })?.short).toBe('not held');
  });
  it('says nothing of no pairs', () => {
    expect(digest([])).toMatchObject({ names: [], worst: null, weakest: null });
  });
});
