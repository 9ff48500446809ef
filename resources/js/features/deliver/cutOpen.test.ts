import { describe, expect, it } from 'vitest';
import { planeOf, reach } from './CutOpen';

const datums = [{ id: 'd', name: 'End', kind: 'plane' as const, origin: [10, 0, 0] as [number, number, number], direction: [0.6, 0.8, 0] as [number, number, number] }];

describe('the plane of a section', () => {
  it('is of the frame or a datum, moved the way it faces', () => {
    expect(planeOf({ plane: 'ZX', shift: 4 }, datums)).toEqual({ point: [0, 4, 0], normal: [0, 1, 0] });
    expect(planeOf({ plane: 'd', shift: -5 }, datums)).toEqual({ point: [7, -4, 0], normal: [0.6, 0.8, 0] });
    expect(planeOf({ plane: 'gone' }, datums)).toBeNull();
    expect(planeOf({}, datums)).toBeNull();
  });
  it('is moved from one end of the part to the other', () => {
    const box = { centre: [20, 0, 5], size: [40, 10, 10] };
    expect(reach(box, { point: [0, 0, 0], normal: [1, 0, 0] }, 0)).toEqual([0, 40]);
    expect(reach(box, { point: [15, 0, 0], normal: [1, 0, 0] }, 15)).toEqual([0, 40]);
    expect(reach(box, { point: [0, 0, 0], normal: [0, 0, -1] }, 0)).toEqual([-10, 0]);
  });
});
