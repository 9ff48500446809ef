import { describe, expect, it } from 'vitest';
import { collapsesTo, facesAt, type HeldLevels, levelAt, measuredAt, placeOf, readLevels, SLIDER, shadesWithin, shareOf } from './levels';

const base64 = (list: Uint32Array | Float32Array | Uint8Array): string => btoa(String.fromCharCode(...new Uint8Array(list.buffer)));

/** An octahedron (6 vertices, 8 faces) with one collapse to a pyramid of two tetrahedra and a second to nothing more than a tetrahedron. */
const geometry = {
  origin: [10, 0, 0] as [number, number, number],
  positions: new Float32Array([1, 0, 0, -1, 0, 0, 0, 1, 0, 0, -1, 0, 0, 0, 1, 0, 0, -1]),
  faces: new Uint32Array([0, 2, 4, 2, 1, 4, 1, 3, 4, 3, 0, 4, 2, 0, 5, 1, 2, 5, 3, 1, 5, 0, 3, 5]),
};
const held: HeldLevels = {
  middle: [9, 0, 0],
  kept: base64(new Uint32Array([0, 1])),
  gone: base64(new Uint32Array([2, 0])),
  places: base64(new Float32Array([1.5, 0.5, 0, 0.25, 0.5, 0.75])),
  left: base64(new Uint32Array([6, 4])),
  stops: [
    { collapses: 0, faces: 8, p95: 0, farthest: 0 },
    { collapses: 2, faces: 4, p95: 0.2, farthest: 0.6 },
  ],
  shades: base64(new Uint8Array([1, 1, 1, 1, 1, 1, 50, 100, 150, 200])),
};
const levels = readLevels(held, 6);

describe('levels', () => {
  it('no collapse is the body itself', () => {
    const level = levelAt(levels, geometry, 0);
    expect([...level.positions]).toEqual([...geometry.positions]);
    expect([...level.faces]).toEqual([...geometry.faces]);
    expect([...level.shades]).toEqual([1, 1, 1, 1, 1, 1]);
  });
  it('a collapse moves who stays, from the middle of the body, and takes the faces between the two', () => {
    const level = levelAt(levels, geometry, 1);
    expect([...level.positions.slice(0, 3)]).toEqual([0.5, 0.5, 0]);
    expect(level.positions.length).toBe(15);
    // Vertices are numbered without the one that went; the faces that held both are gone.
    expect([...level.faces]).toEqual([0, 1, 3, 1, 2, 3, 2, 0, 3, 1, 0, 4, 2, 1, 4, 0, 2, 4]);
  });
  it('what took a place and lost its own later is stood for by the last', () => {
    const level = levelAt(levels, geometry, 2);
    expect([...level.positions.slice(0, 3)]).toEqual([-0.75, 0.5, 0.75]);
    // 1, 3, 4 and 5 are left, numbered from 0: a tetrahedron.
    expect([...level.faces]).toEqual([0, 1, 2, 1, 0, 2, 1, 0, 3, 0, 1, 3]);
  });
  it('is shaded as measured at the next stop, by who stands there for a vertex', () => {
    expect([...levelAt(levels, geometry, 1).shades]).toEqual([50, 50, 100, 150, 200]);
    expect([...levelAt(levels, geometry, 2).shades]).toEqual([50, 100, 150, 200]);
  });
  it('colours distances up to a range, whatever the farthest is', () => {
    expect([...shadesWithin({ shades: new Uint8Array([1, 128, 255]), farthest: 0.4 }, 0.2)]).toEqual([1, 128, 255]);
    expect([...shadesWithin({ shades: new Uint8Array([1, 128, 255]), farthest: 0.1 }, 0.2)]).toEqual([1, 33, 128]);
  });
  it('finds how many collapses a count of faces takes', () => {
    expect([9, 8, 7, 6, 5, 4, 1].map((faces) => collapsesTo(levels, faces))).toEqual([0, 0, 1, 1, 2, 2, 2]);
  });
  it('reads distances between stops by the logarithm of the count', () => {
    expect(measuredAt(held.stops, 8)).toEqual({ p95: 0, farthest: 0 });
    expect(measuredAt(held.stops, Math.sqrt(32)).p95).toBeCloseTo(0.1);
    expect(measuredAt(held.stops, 2)).toEqual({ p95: 0.2, farthest: 0.6 });
  });
  it('shares a count out as the core has shared the stops', () => {
    const all = [{ faces: 10000 }, { faces: 5000 }, { faces: 2500 }];
    const own = [{ faces: 2000 }, { faces: 2000 }, { faces: 1000 }];
    expect([10000, 7000, 5000, 2500].map((faces) => shareOf(own, all, faces))).toEqual([2000, 2000, 2000, 1000]);
    expect(shareOf(own, all, 3536)).toBe(1414);
  });
  it('the slider goes from all faces to the fewest and back', () => {
    expect([0, SLIDER].map((at) => facesAt(at, 114066, 100))).toEqual([114066, 100]);
    for (const at of [1, 57, 120, 199]) expect(placeOf(facesAt(at, 114066, 100), 114066, 100)).toBe(at);
    expect(facesAt(100, 114066, 100)).toBe(3380);
    expect(placeOf(50, 100, 100)).toBe(0);
  });
});
