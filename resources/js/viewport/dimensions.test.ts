import { Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { apart, middleOf } from './dimensions';

const at = (...places: [number, number, number][]) => places.map((p) => new Vector3(...p));

it('hides a value that would lie over one before it, and one that only meets a hidden one is shown', () => {
  const spot = (x: number) => ({ x, y: 0, wide: 1, high: 0.5 });
  expect(apart([spot(0), spot(1.5), spot(2.5), { ...spot(0), y: 1 }])).toEqual([true, false, true, true]);
  expect(apart([])).toEqual([]);
});

describe('the middle of a dimension', () => {
  it('is half-way along all of its pieces', () => {
    expect(middleOf(at([0, 0, 0], [10, 0, 0])).toArray()).toEqual([5, 0, 0]);
    expect(middleOf(at([0, 0, 0], [2, 0, 0], [2, 6, 0])).toArray()).toEqual([2, 2, 0]);
  });
  it('is the place itself where there is no length', () => {
    expect(middleOf(at([1, 2, 3])).toArray()).toEqual([1, 2, 3]);
    expect(middleOf(at([1, 2, 3], [1, 2, 3])).toArray()).toEqual([1, 2, 3]);
    expect(middleOf([]).toArray()).toEqual([0, 0, 0]);
  });
});
