import { describe, expect, it } from 'vitest';
import { cellSides } from './cellSides';

const NONE = 0xffffffff;

describe('the sides of cells', () => {
  it('leave the diagonal of a four-sided cell out and hold every side once', () => {
    // Two quads side by side, and a triangle at the end of them.
    const faces = new Uint32Array([0, 1, 2, 0, 2, 3, 1, 4, 5, 1, 5, 2, 4, 6, 5]);
    const adjacency = new Uint32Array([NONE, 3, 1, 0, NONE, NONE, NONE, 4, 3, 2, NONE, 0, NONE, NONE, 2]);
    const sides = cellSides({ faces, adjacency, quads: new Uint32Array([0, 2]) });
    const named = Array.from({ length: sides.length / 2 }, (_, k) => [sides[2 * k]!, sides[2 * k + 1]!].sort((a, b) => a - b).join('-')).sort();
    expect(named).toEqual(['0-1', '0-3', '1-2', '1-4', '2-3', '2-5', '4-5', '4-6', '5-6']);
  });

  it('are none of a body of triangles', () => {
    expect(cellSides({ faces: new Uint32Array([0, 1, 2]), adjacency: null, quads: null }).length).toBe(0);
  });
});
