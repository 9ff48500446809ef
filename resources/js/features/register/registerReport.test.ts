import { describe, expect, it } from 'vitest';
import { digest, type PairLine } from './RegisterReport';

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
  it('says nothing of no pairs', () => {
    expect(digest([])).toMatchObject({ names: [], worst: null, weakest: null });
  });
});
