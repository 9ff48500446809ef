import { describe, expect, it } from 'vitest';
import { inFront } from './inFront';

const point = (along: number, away: number) => ({ along, away, isSurface: false });
const layer = (along: number, many: number) => Array.from({ length: many }, (_, k) => point(along + 0.01 * k, 0.1 + 0.05 * k));

describe('what is in front', () => {
  it('is of the front layer the point nearest to the ray', () => {
    expect(inFront([point(90, 0.4), point(90.5, 0.1), point(140, 0)], 1)).toEqual(point(90.5, 0.1));
    expect(inFront([], 1)).toBeNull();
    expect(inFront([point(3, 0.2)], 1)).toEqual(point(3, 0.2));
  });

  it('is not a stray before a surface, but it is where hardly more lies behind it', () => {
    expect(inFront([point(20, 0), ...layer(90, 9)], 1)).toEqual(point(90, 0.1));
    expect(inFront([point(20, 0), point(20.5, 0.3), ...layer(90, 9)], 1)).toEqual(point(20, 0));
    expect(inFront([point(20, 0), ...layer(90, 4)], 1)).toEqual(point(20, 0));
  });

  it('is a face of a mesh, of which there is one however near it is', () => {
    const face = { along: 20, away: 0, isSurface: true };
    expect(inFront([...layer(90, 40), face], 1)).toBe(face);
    expect(inFront([...layer(10, 40), face], 1)).toEqual(point(10, 0.1));
  });
});
