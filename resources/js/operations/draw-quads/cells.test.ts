import { describe, expect, it } from 'vitest';
import { cellsOf } from './cells';

describe('cells of picks', () => {
  it('are four corners each, and a corner picked again is the same', () => {
    const { points, faces } = cellsOf([
      [0, 0, 0],
      [10, 0, 0],
      [10, 10, 0],
      [0, 10, 0],
      [10.4, 0.3, 0],
      [20, 0, 0],
      [20, 10, 0],
      [9.8, 9.9, 0],
    ]);
    expect(points).toHaveLength(6);
    expect(faces).toEqual([
      [0, 1, 2, 3],
      [1, 4, 5, 2],
    ]);
  });

  it('wait for the last corner of one that is not whole', () => {
    expect(
      cellsOf([
        [0, 0, 0],
        [10, 0, 0],
        [10, 10, 0],
      ]).faces,
    ).toEqual([]);
    expect(
      cellsOf([
        [0, 0, 0],
        [10, 0, 0],
        [10, 10, 0],
        [0, 10, 0],
        [0, 20, 0],
      ]),
    ).toEqual({
      points: [
        [0, 0, 0],
        [10, 0, 0],
        [10, 10, 0],
        [0, 10, 0],
      ],
      faces: [[0, 1, 2, 3]],
    });
  });
});
