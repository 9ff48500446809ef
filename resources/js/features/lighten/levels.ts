import { bytesOf } from '../../api/base64';
import type { Geometry } from '../../viewport/blob';

/** A count of faces at which the core has measured how far a body lies off. */
export interface Stop {
  collapses: number;
  faces: number;
  /** mm: 95 % lie nearer */
  p95: number;
  /** mm */
  farthest: number;
}

/** What an artefact of levels holds, as the core wrote it (core/src/Lighten/BodyLevels.php); lists in base 64, little-endian. */
export interface HeldLevels {
  middle: [number, number, number];
  kept: string;
  gone: string;
  places: string;
  left: string;
  stops: Stop[];
  shades: string;
}

/** The collapses of a body, from its whole mesh to its fewest faces. */
export interface Levels {
  kept: Uint32Array;
  gone: Uint32Array;
  /** where each collapse moves the kept vertex to, from the middle, in the numbers of the body */
  places: Float32Array;
  middle: [number, number, number];
  /** faces after each collapse */
  left: Uint32Array;
  stops: Stop[];
  /** of each stop, a byte a vertex that is there */
  shades: Uint8Array[];
}

/** A body at a count of faces. */
export interface Level {
  positions: Float32Array;
  faces: Uint32Array;
  /** a byte a vertex: 1 and 254 times the square root of its distance over the farthest */
  shades: Uint8Array;
  /** mm */
  farthest: number;
}

/** @param vertices of the whole mesh */
export function readLevels(held: HeldLevels, vertices: number): Levels {
  const all = bytesOf(held.shades);
  let from = 0;
  const shades = held.stops.map((stop) => {
    const many = vertices - stop.collapses;
    from += many;
    return all.subarray(from - many, from);
  });
  return { middle: held.middle, kept: new Uint32Array(bytesOf(held.kept).buffer), gone: new Uint32Array(bytesOf(held.gone).buffer), places: new Float32Array(bytesOf(held.places).buffer), left: new Uint32Array(bytesOf(held.left).buffer), stops: held.stops, shades };
}

/** The number of collapses to carry out until no more than this count of faces is left. Where the shape does not allow so few: all collapses. */
export function collapsesTo({ left, stops }: Levels, faces: number): number {
  if (faces >= (stops[0]?.faces ?? 0)) return 0;
  let low = 0;
  let high = left.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (left[middle]! <= faces) high = middle;
    else low = middle + 1;
  }
  return Math.min(left.length, low + 1);
}

/** For each vertex of the whole mesh, the vertex that has taken its place once this number of collapses has been carried out; itself where it is left. */
function standing({ kept, gone }: Levels, vertices: number, collapses: number): Uint32Array {
  const of = Uint32Array.from({ length: vertices }, (_, v) => v);
  for (let k = 0; k < collapses; k++) of[gone[k]!] = kept[k]!;
  // Backwards: who took a vertex's place has lost its own later, if at all, and points to who stands there by then.
  for (let k = collapses - 1; k >= 0; k--) of[gone[k]!] = of[kept[k]!]!;
  return of;
}

/** The mesh once this number of collapses has been carried out. Its shades are those of the next stop that has no more faces. */
export function levelAt(levels: Levels, { positions, faces, origin }: Pick<Geometry, 'positions' | 'faces' | 'origin'>, collapses: number): Level {
  const vertices = positions.length / 3;
  const of = standing(levels, vertices, collapses);
  const places = positions.slice();
  const by = [0, 1, 2].map((c) => levels.middle[c]! - origin[c]!);
  for (let k = 0; k < collapses; k++) {
    const o = 3 * levels.kept[k]!;
    for (let c = 0; c < 3; c++) places[o + c] = levels.places[3 * k + c]! + by[c]!;
  }
  const at = levels.stops.findIndex((stop) => stop.collapses >= collapses);
  const stop = at < 0 ? levels.stops.length - 1 : at;
  const stands = standing(levels, vertices, Math.max(collapses, levels.stops[stop]?.collapses ?? 0));
  const ranks = new Uint32Array(vertices);
  for (let v = 0, rank = 0; v < vertices; v++) if (stands[v] === v) ranks[v] = rank++;

  const number = new Uint32Array(vertices);
  const there = new Float32Array(3 * (vertices - collapses));
  const shades = new Uint8Array(vertices - collapses);
  for (let v = 0, n = 0; v < vertices; v++) {
    if (of[v] !== v) continue;
    there.set(places.subarray(3 * v, 3 * v + 3), 3 * n);
    shades[n] = levels.shades[stop]?.[ranks[stands[v]!]!] ?? 1;
    number[v] = n++;
  }
  const corners = new Uint32Array(faces?.length ?? 0);
  let end = 0;
  for (let h = 0; faces && h < faces.length; h += 3) {
    const [a, b, c] = [of[faces[h]!]!, of[faces[h + 1]!]!, of[faces[h + 2]!]!];
    if (a === b || b === c || c === a) continue;
    corners[end++] = number[a]!;
    corners[end++] = number[b]!;
    corners[end++] = number[c]!;
  }
  return { positions: there, faces: corners.slice(0, end), shades, farthest: levels.stops[stop]?.farthest ?? 0 };
}

/** The shades of a level as a map is coloured: 1 for no distance to 255 for a range and more. */
export function shadesWithin({ shades, farthest }: Pick<Level, 'shades' | 'farthest'>, rangeMm: number): Uint8Array {
  const to = Uint8Array.from({ length: 256 }, (_, shade) => 1 + Math.round(254 * Math.min(1, (farthest * ((shade - 1) / 254) ** 2) / rangeMm)));
  return shades.map((shade) => to[shade]!);
}

/** Two stops around a count of faces, and how far it lies from the first to the second, in the logarithm of the count. */
function around(stops: readonly { faces: number }[], faces: number): { k: number; share: number } {
  const last = stops.length - 1;
  let k = 0;
  while (k < last - 1 && stops[k + 1]!.faces >= faces) k++;
  const [from, to] = [stops[k]?.faces ?? 1, stops[Math.min(last, k + 1)]?.faces ?? 1];
  return { k, share: from === to ? 0 : Math.min(1, Math.max(0, Math.log(from / faces) / Math.log(from / to))) };
}

/** What was measured, read between the stops: mm. */
export function measuredAt(stops: readonly { faces: number; p95: number; farthest: number }[], faces: number): { p95: number; farthest: number } {
  const { k, share } = around(stops, faces);
  const [from, to] = [stops[k], stops[Math.min(stops.length - 1, k + 1)]];
  const between = (what: 'p95' | 'farthest') => (from?.[what] ?? 0) + share * ((to?.[what] ?? 0) - (from?.[what] ?? 0));
  return { p95: between('p95'), farthest: between('farthest') };
}

/** How many faces of a count for all bodies one has: the core has shared the stops out by area. */
export function shareOf(own: readonly { faces: number }[], all: readonly { faces: number }[], faces: number): number {
  const { k, share } = around(all, faces);
  const [from, to] = [own[k]?.faces ?? 0, own[Math.min(own.length - 1, k + 1)]?.faces ?? 0];
  return Math.round(from * (Math.max(1, to) / Math.max(1, from)) ** share);
}

/** Places of the slider, from all faces to the fewest. */
export const SLIDER = 200;

/** Faces at a place of the slider, in three figures: what nobody would tell apart is not asked for. */
export function facesAt(place: number, most: number, fewest: number): number {
  if (place <= 0) return most;
  if (place >= SLIDER) return fewest;
  return Math.max(fewest, Math.min(most, +(most * (fewest / most) ** (place / SLIDER)).toPrecision(3)));
}

/** The place of the slider for a count of faces. */
export const placeOf = (faces: number, most: number, fewest: number): number => (most <= fewest ? 0 : Math.round(Math.min(SLIDER, Math.max(0, (SLIDER * Math.log(most / faces)) / Math.log(most / fewest)))));
