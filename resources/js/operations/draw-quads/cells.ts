type Place = readonly [number, number, number];

/** Of the typical distance from one pick to the next: a pick nearer than this to an earlier one means that one. */
const SNAP = 0.25;

const apart = (a: Place, b: Place) => Math.hypot(a[0] - b[0], a[1] - b[1], a[2] - b[2]);

/** The cells that picks in turn make, four corners each: every corner once, and cells that name it. Picks beyond the last whole cell are left out. */
export function cellsOf(picks: readonly Place[]): { points: Place[]; faces: number[][] } {
  const whole = picks.slice(0, picks.length - (picks.length % 4));
  const steps = whole
    .slice(1)
    .map((at, k) => apart(at, whole[k]!))
    .sort((a, b) => a - b);
  const near = SNAP * (steps[Math.floor(steps.length / 2)] ?? 0);
  const points: Place[] = [];
  const corners = whole.map((at) => {
    const known = points.findIndex((other) => apart(at, other) < near);
    return known >= 0 ? known : points.push(at) - 1;
  });
  return { points, faces: Array.from({ length: whole.length / 4 }, (_, k) => corners.slice(4 * k, 4 * k + 4)) };
}
