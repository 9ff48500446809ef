import { describe, expect, it } from 'vitest';
import { rimLoops } from './rimLoops';

const N = 0xffffffff;

describe('open rims of a mesh', () => {
  it('of two faces that make a square there is one, around it', () => {
    const [loop, ...others] = rimLoops({ faces: new Uint32Array([0, 1, 2, 0, 2, 3]), adjacency: new Uint32Array([N, N, 1, 0, N, N]) });
    expect(others).toEqual([]);
    const start = loop!.indexOf(0);
    expect([...loop!.slice(start), ...loop!.slice(0, start)]).toEqual([0, 1, 2, 3]);
  });
  it('a closed mesh has none', () => {
    expect(rimLoops({ faces: new Uint32Array([0, 1, 2, 0, 2, 1]), adjacency: new Uint32Array(6) })).toEqual([]);
  });
  it('rims that touch in a vertex use every open edge once', () => {
    const loops = rimLoops({ faces: new Uint32Array([0, 1, 2, 0, 3, 4]), adjacency: new Uint32Array(6).fill(N) });
    expect(loops.flat().sort()).toEqual([0, 0, 1, 2, 3, 4]);
  });
});
