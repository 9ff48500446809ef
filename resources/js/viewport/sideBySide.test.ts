import { describe, expect, it } from 'vitest';
import { inARow } from './sideBySide';

describe('bodies side by side', () => {
  it('stand in a row without touching, the first where it was', () => {
    const boxes = [
      { centre: [0, 0, 0], size: [20, 5, 5] },
      { centre: [3, 9, 9], size: [40, 1, 1] },
      { centre: [-50, 0, 0], size: [10, 2, 2] },
    ] as const;
    const by = inARow(boxes);
    expect(by[0]).toBe(0);
    const sides = boxes.map((b, k) => [b.centre[0] + by[k]! - b.size[0] / 2, b.centre[0] + by[k]! + b.size[0] / 2]);
    expect(sides[1]![0]! - sides[0]![1]!).toBeCloseTo(4, 9);
    expect(sides[2]![0]! - sides[1]![1]!).toBeCloseTo(4, 9);
  });
  it('are none where there is none', () => expect(inARow([])).toEqual([]));
});
