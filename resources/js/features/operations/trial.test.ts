import { describe, expect, it } from 'vitest';
import { sameParameters, toTry } from './trial';

describe('parameters', () => {
  it('of a trial leave support to the view, and change nothing else', () => {
    expect(toTry('rebuild', { detail: 1, support: 0.4 })).toEqual({ detail: 1, support: 0 });
    expect(sameParameters(toTry('rebuild', { detail: 1, support: 0.4 }), toTry('rebuild', { detail: 1, support: 0.1 }))).toBe(true);
    expect(toTry('fuse', { voxel: 1 })).toEqual({ voxel: 1 });
  });
  it('mean the same whatever their order, and differ by a value', () => {
    expect(sameParameters({ a: 1, b: { x: [1, 2], y: 'z' } }, { b: { y: 'z', x: [1, 2] }, a: 1 })).toBe(true);
    expect(sameParameters({ a: 1 }, { a: 2 })).toBe(false);
    expect(sameParameters({ a: [1, 2] }, { a: [2, 1] })).toBe(false);
    expect(sameParameters({}, {})).toBe(true);
  });
});
