import { describe, expect, it } from 'vitest';
import { combine, type Marks, NOTHING, toRanges, toSelection } from './marks';
import { grow, meshNeighbours, piece, shrink, spread, cloudNeighbours } from './neighbours';
import { polygonMask, strokeMask } from './screenMask';

const of = (...bits: number[]) => new Uint8Array(bits);
const marks = (bits: number[]): Marks => new Map([['a', of(...bits)]]);
const bits = (m: Marks) => [...(m.get('a') ?? [])];

describe('a selection', () => {
  it('is replaced, added to and taken from', () => {
    const base = marks([1, 1, 0, 0]);
    const found = marks([0, 1, 1, 0]);
    expect(bits(combine(base, found, 'replace'))).toEqual([0, 1, 1, 0]);
    expect(bits(combine(base, found, 'add'))).toEqual([1, 1, 1, 0]);
    expect(bits(combine(base, found, 'subtract'))).toEqual([1, 0, 0, 0]);
    expect(bits(base)).toEqual([1, 1, 0, 0]);
    expect(combine(NOTHING, found, 'subtract').size).toBe(0);
    expect(bits(combine(NOTHING, found, 'add'))).toEqual([0, 1, 1, 0]);
  });
  it('becomes ranges, and empty items are left out', () => {
    expect(toRanges(of(0, 1, 1, 1, 0, 0, 0, 1, 0, 1, 1))).toEqual([
      [1, 3],
      [7, 7],
      [9, 10],
    ]);
    expect(toRanges(of())).toEqual([]);
    expect(
      toSelection(
        new Map([
          ['a', of(0, 1)],
          ['b', of(0, 0)],
        ]),
      ),
    ).toEqual([{ target: 'a', ranges: [[1, 1]], count: 1, of: 2 }]);
  });
});

/** A strip of squares along X, two faces each, bent up by 90 degrees after the third; and a loose face. */
function strip() {
  const positions: number[] = [];
  for (let k = 0; k <= 6; k++) for (const y of [0, 1]) positions.push(Math.min(k, 3), y, Math.max(0, k - 3));
  const faces: number[] = [];
  for (let k = 0; k < 6; k++) faces.push(2 * k, 2 * k + 2, 2 * k + 1, 2 * k + 2, 2 * k + 3, 2 * k + 1);
  positions.push(9, 9, 9, 10, 9, 9, 9, 10, 9);
  faces.push(14, 15, 16);
  const adjacency = new Uint32Array(faces.length).fill(0xffffffff);
  for (let a = 0; a < faces.length; a++)
    for (let b = 0; b < faces.length; b++) {
      const next = (h: number) => h - (h % 3) + ((h + 1) % 3);
      if (faces[a] === faces[next(b)] && faces[next(a)] === faces[b]) adjacency[a] = Math.floor(b / 3);
    }
  return meshNeighbours({ positions: new Float32Array(positions), faces: new Uint32Array(faces), adjacency });
}

describe('faces that hang together', () => {
  it('grow by one ring and shrink back to where they began, but never past a rim', () => {
    const n = strip();
    const start = new Uint8Array(13);
    start[4] = 1;
    const grown = grow(start, n);
    expect([...grown].flatMap((m, i) => (m ? [i] : []))).toEqual([3, 4, 5]);
    expect([...shrink(grown, n)]).toEqual([...start]);
    expect([...shrink(new Uint8Array(13).fill(1), n)]).toEqual([...new Uint8Array(13).fill(1)]);
  });
  it('are one piece, without the loose face', () => {
    const found = piece(0, strip());
    expect([...found]).toEqual([...Array<number>(12).fill(1), 0]);
  });
  it('spread over what is smooth and stop at an edge and at a distance', () => {
    const flat = (angle: number, within: number) => [...spread(0, strip(), angle, within)].reduce((a, b) => a + b, 0);
    expect(flat(30, Infinity)).toBe(6);
    expect(flat(100, Infinity)).toBe(12);
    expect(flat(100, 1.1)).toBe(3);
  });
});

describe('points that hang together', () => {
  // Two plates at a right angle that share an edge, and one far away; 0.5 apart.
  const points: number[] = [];
  for (let i = 0; i < 20; i++) for (let j = 0; j < 20; j++) points.push(0.5 * i, 0.5 * j, 0);
  for (let i = 1; i < 20; i++) for (let j = 0; j < 20; j++) points.push(0, 0.5 * j, 0.5 * i);
  const far = points.length / 3;
  for (let i = 0; i < 20; i++) for (let j = 0; j < 20; j++) points.push(50 + 0.5 * i, 0.5 * j, 0);
  const n = cloudNeighbours({ positions: new Float32Array(points) }, null);
  it('are one piece as far as no gap parts them', () => {
    const found = piece(0, n);
    expect(found.subarray(0, far).every((m) => m === 1)).toBe(true);
    expect(found.subarray(far).every((m) => m === 0)).toBe(true);
  });
  it('spread over one plate and stop where it bends', () => {
    const found = spread(399, n, 15, Infinity);
    const onPlate = found.subarray(0, 400).reduce((a, b) => a + b, 0);
    const beyond = found.subarray(400).reduce((a, b) => a + b, 0);
    expect(onPlate).toBeGreaterThan(300);
    expect(beyond).toBeLessThan(60);
  });
  it('leave out what a mask took away', () => {
    const mask = new Uint8Array(points.length / 3).fill(1);
    mask[21] = 0;
    expect(piece(0, cloudNeighbours({ positions: new Float32Array(points) }, mask))[21]).toBe(0);
  });
});

describe('a path on the screen', () => {
  it('covers what the even-odd rule says', () => {
    const u = [
      [0, 0],
      [9, 0],
      [9, 9],
      [6, 9],
      [6, 3],
      [3, 3],
      [3, 9],
      [0, 9],
    ].map(([x, y]) => ({ x: x!, y: y! }));
    const mask = polygonMask(u, 12, 12);
    const at = (x: number, y: number) => mask[y * 12 + x];
    expect([at(1, 8), at(4, 8), at(8, 8), at(4, 1), at(10, 10)]).toEqual([1, 0, 1, 1, 0]);
    expect(mask.reduce((a, b) => a + b, 0)).toBe(81 - 18);
  });
  it('may reach over the borders of the view', () => {
    const big = [
      { x: -50, y: -50 },
      { x: 50, y: -50 },
      { x: 50, y: 50 },
      { x: -50, y: 50 },
    ];
    expect(polygonMask(big, 8, 6).every((m) => m === 1)).toBe(true);
  });
  it('covers a stroke of its width with round ends', () => {
    const mask = strokeMask(
      [
        { x: 5, y: 10 },
        { x: 15, y: 10 },
      ],
      3,
      30,
      20,
    );
    const at = (x: number, y: number) => mask[y * 30 + x];
    expect([at(10, 10), at(10, 12), at(10, 14), at(3, 10), at(1, 10), at(17, 10), at(19, 10)]).toEqual([1, 1, 0, 1, 0, 1, 0]);
  });
});
