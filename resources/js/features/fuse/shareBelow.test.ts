import { describe, expect, it } from 'vitest';
import { shareBelow } from './shareBelow';

const below = Array.from({ length: 101 }, (_, k) => (k < 10 ? 0 : k / 200));

describe('what a support takes off', () => {
  it('is read off the list, and between its entries', () => {
    expect(shareBelow(below, 0)).toBe(0);
    expect(shareBelow(below, 0.5)).toBeCloseTo(0.25);
    expect(shareBelow(below, 0.505)).toBeCloseTo(0.2525);
    expect(shareBelow(below, 1)).toBeCloseTo(0.5);
  });
  it('is nothing where nothing is known', () => {
    expect(shareBelow([], 0.3)).toBe(0);
  });
});
