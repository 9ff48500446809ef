export type Place = readonly [number, number, number];

/** A corner of an open rim. */
export interface RimPlace {
  /** names its rim */
  rim: string;
  /** null where the place alone is known, as of a step of before: then the nearest corner is meant */
  corner: number | null;
  pointMm: Place;
}

/** What runs along a rim from one place to another. */
export interface RimStretch {
  from: RimPlace;
  to: RimPlace;
}

/** One side of a rim, closed up to a curve between two places; the third is on that side. */
export interface RimPart extends RimStretch {
  side: RimPlace;
}

/** Two stretches that a strip joins. */
export type RimStrip = readonly [RimStretch, RimStretch];

const apart = (a: Place, b: Place): number => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** The places of a rim from one corner to another in its direction, both with it. */
function along(rim: readonly Place[], from: number, to: number): Place[] {
  const n = rim.length;
  return Array.from({ length: ((to - from + n) % n) + 1 }, (_, k) => rim[(from + k) % n]!);
}

/** Along a line of places, mm. */
export const lengthOf = (line: readonly Place[]): number => line.slice(1).reduce((sum, at, k) => sum + apart(at, line[k]!), 0);

const cornerOf = (rim: readonly Place[], { corner, pointMm }: RimPlace): number => corner ?? rim.reduce((best, at, k) => (apart(at, pointMm) < apart(rim[best]!, pointMm) ? k : best), 0);

/** The line of a stretch on its rim: the shorter way, or the way with a corner on it; in one direction or the other. */
export function lineOf(rim: readonly Place[], { from, to }: RimStretch, side?: RimPlace): Place[] {
  if (rim.length === 0) return [];
  const [begin, end] = [cornerOf(rim, from), cornerOf(rim, to)];
  const [there, back] = [along(rim, begin, end), along(rim, end, begin)];
  if (!side) return lengthOf(there) <= lengthOf(back) ? there : back;
  const n = rim.length;
  return (cornerOf(rim, side) - begin + n) % n < (end - begin + n) % n ? there : back;
}

/** A corner of a rim as a place, counted round and round. */
const cornerPlace = (rim: string, corners: readonly Place[], corner: number): RimPlace => ({ rim, corner: corner % corners.length, pointMm: corners[corner % corners.length]! });

/** The stretch that begins at a corner and is so many edges long, with a corner of its own and one of the rest of the rim. */
export const stretchOf = (rim: string, corners: readonly Place[], begin: number, edges: number): { stretch: RimStretch; side: RimPlace; rest: RimPlace } => ({
  stretch: { from: cornerPlace(rim, corners, begin), to: cornerPlace(rim, corners, begin + edges) },
  side: cornerPlace(rim, corners, begin + 1),
  rest: cornerPlace(rim, corners, begin + edges + 1),
});
