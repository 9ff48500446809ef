import { describe, expect, it } from 'vitest';
import { sameParameters } from './trial';

describe('parameters', () => {
  it('mean the same whatever their order, and differ by a value', () => {
    expect(sameParameters({ a: 1, b: { x: [1, 2], y: 'z' } }, { b: { y: 'z', x: [1, 2] }, a: 1 })).toBe(true);
    expect(sameParameters({ a: 1 }, { a: 2 })).toBe(false);
    expect(sameParameters({ a: [1, 2] }, { a: [2, 1] })).toBe(false);
    expect(sameParameters({}, {})).toBe(true);
  });
});
