import { describe, expect, it } from 'vitest';
import { anOperation } from '../../test/project';
import { isLive, sameParameters, toTry } from './trial';

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

describe('what is tried by itself', () => {
  const live = (name: string, seconds: number | undefined, isBegun: boolean) => isLive(anOperation(name, 'mend'), seconds, isBegun);
  it('filters from the first, new surface once it has been tried, and nothing that takes long', () => {
    expect([live('drop-base', 3, false), live('drop-base', 300, false), live('drop-base', undefined, false)]).toEqual([true, false, false]);
    expect([live('fill-holes', 3, false), live('fill-holes', 3, true), live('fill-holes', 300, true)]).toEqual([false, true, false]);
    expect(live('fuse', 3, true)).toBe(false);
  });
});
