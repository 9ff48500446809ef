/** What a shape or a datum is, and which way it lies. */
interface Lying {
  kind: string;
  direction: readonly number[];
}

/** Cosines: within 5 degrees of one line, and of square to each other. */
const ALONG = 0.996;
const SQUARE = 0.087;

const dot = (a: readonly number[], b: readonly number[]) => (a[0] ?? 0) * (b[0] ?? 0) + (a[1] ?? 0) * (b[1] ?? 0) + (a[2] ?? 0) * (b[2] ?? 0);

const isAxial = (s: Lying) => s.kind === 'cylinder' || s.kind === 'cone' || s.kind === 'revolved' || s.kind === 'line';

/**
 * Shapes, or datums, for the first, second and third datum of a frame: the largest plane to stand on; the largest bore or shaft that lies along it, or else the largest side square to it; and
 * what locks the rest: an end square to both, or a bore that stands upright. They come in order of size, or of making.
 */
export function frameFrom<T extends Lying>(shapes: readonly T[]): T[] {
  const first = shapes.find((s) => s.kind === 'plane');
  if (!first) return shapes.filter(isAxial).slice(0, 1);
  const upright = (s: T) => Math.abs(dot(s.direction, first.direction)) > ALONG;
  const level = (s: T) => Math.abs(dot(s.direction, first.direction)) < SQUARE;
  const second = shapes.find((s) => isAxial(s) && level(s)) ?? shapes.find((s) => s.kind === 'plane' && level(s)) ?? shapes.find((s) => isAxial(s) && upright(s));
  if (!second) return [first];
  const ends = (s: T) => {
    const turn = Math.abs(dot(s.direction, second.direction));
    return s.kind === 'plane' && level(s) && (isAxial(second) && level(second) ? turn > ALONG : upright(second) || turn < SQUARE);
  };
  const third = shapes.find(ends) ?? shapes.find((s) => isAxial(s) && upright(s) && s !== second);
  return third ? [first, second, third] : [first, second];
}
