import type { Box, BoxUse, Vec } from '../../tools/cropBox/box';

const AXES = ['x', 'y', 'z'] as const;
const number = (value: unknown): number => (typeof value === 'number' ? value : 0);
const round = (value: number): number => Math.round(value * 1000) / 1000 + 0;

/** The box where the form's values bring it. */
export function boxAt(start: Box, use: BoxUse, values: Record<string, unknown>): Box {
  const shift = use === 'turn' ? [0, 0, 0] : use === 'shift' ? AXES.map((a) => number(values[a])) : AXES.map((a) => number(values[`shift${a.toUpperCase()}`]));
  const turn = use === 'shift' ? [0, 0, 0] : use === 'turn' ? AXES.map((a) => (values.axis === a ? number(values.angle) : 0)) : AXES.map((a) => number(values[`turn${a.toUpperCase()}`]));
  return { size: start.size, centre: start.centre.map((c, k) => c + (shift[k] ?? 0)) as unknown as Vec, turn: turn as unknown as Vec };
}

/** The form's values for where a box was dragged, in thousandths of a millimetre and degree. */
export function valuesOf(start: Box, use: BoxUse, box: Box): Record<string, unknown> {
  const shift = box.centre.map((c, k) => round(c - (start.centre[k] ?? 0)));
  if (use === 'shift') return { x: shift[0], y: shift[1], z: shift[2] };
  if (use === 'turn') {
    const k = box.turn.reduce((most, t, j) => (Math.abs(t) > Math.abs(box.turn[most] ?? 0) ? j : most), 0);
    return { axis: AXES[k], angle: round(box.turn[k] ?? 0) };
  }
  return Object.fromEntries(
    AXES.flatMap((a, k) => [
      [`shift${a.toUpperCase()}`, shift[k]],
      [`turn${a.toUpperCase()}`, round(box.turn[k] ?? 0)],
    ]),
  );
}
