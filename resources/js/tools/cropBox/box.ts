export type Vec = readonly [number, number, number];

/** A box in project millimetres: its middle, its size, and how it is turned, in degrees about X, then Y, then Z. */
export interface Box {
  centre: Vec;
  size: Vec;
  turn: Vec;
}

export interface Ray {
  origin: Vec;
  direction: Vec;
}

/** Where the box is held: a face along its own axis (0 to 2) on one side, a turn about an axis, or its middle. */
export type Handle = { kind: 'face'; axis: 0 | 1 | 2; side: 1 | -1 } | { kind: 'turn'; axis: 0 | 1 | 2 } | { kind: 'middle' };

const AXES = [0, 1, 2] as const;

export const HANDLES: readonly Handle[] = [...AXES.flatMap((axis) => ([1, -1] as const).map((side): Handle => ({ kind: 'face', axis, side }))), ...AXES.map((axis): Handle => ({ kind: 'turn', axis })), { kind: 'middle' }];

/** What the box is for: its sides are dragged to size it, or it stands for what is moved, shifted along axes or turned about one of them. */
export type BoxUse = 'size' | 'move' | 'shift' | 'turn';

/** The handles a box has. */
export const handlesFor = (use: BoxUse): readonly Handle[] => HANDLES.filter((h) => (use === 'turn' ? h.kind === 'turn' : use === 'shift' ? h.kind !== 'turn' : true));

/** No side may be dragged shorter than this. */
export const LEAST_MM = 0.01;

export const add = (a: Vec, b: Vec, times = 1): Vec => [a[0] + times * b[0], a[1] + times * b[1], a[2] + times * b[2]];
export const dot = (a: Vec, b: Vec): number => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Vec, b: Vec): Vec => [a[1] * b[2] - a[2] * b[1], a[2] * b[0] - a[0] * b[2], a[0] * b[1] - a[1] * b[0]];
const rad = (degrees: number) => (degrees * Math.PI) / 180;
const deg = (angle: number) => (angle * 180) / Math.PI;

/** The box's own X, Y and Z in the project. */
export function axesOf({ turn }: Pick<Box, 'turn'>): readonly [Vec, Vec, Vec] {
  const [a, b, c] = turn.map(rad) as unknown as Vec;
  const [ca, sa, cb, sb, cc, sc] = [Math.cos(a), Math.sin(a), Math.cos(b), Math.sin(b), Math.cos(c), Math.sin(c)];
  return [
    [cc * cb, sc * cb, -sb],
    [cc * sb * sa - sc * ca, sc * sb * sa + cc * ca, cb * sa],
    [cc * sb * ca + sc * sa, sc * sb * ca - cc * sa, cb * ca],
  ];
}

/** The turns that give these axes. */
function turnOf([x, y, z]: readonly [Vec, Vec, Vec]): Vec {
  const b = Math.asin(Math.max(-1, Math.min(1, -x[2])));
  // Straight up or down, X and Z turn the same way: all of it goes to X.
  if (Math.abs(x[2]) > 1 - 1e-9) return [deg(Math.atan2(-z[1], y[1])), deg(b), 0];
  return [deg(Math.atan2(y[2], z[2])), deg(b), deg(Math.atan2(x[1], x[0]))];
}

/** Where a handle stands in the project. Turn handles stand on edges, off the middle of the faces. */
export function placeOf(box: Box, handle: Handle): Vec {
  const axes = axesOf(box);
  if (handle.kind === 'middle') return box.centre;
  if (handle.kind === 'face') return add(box.centre, axes[handle.axis], (handle.side * box.size[handle.axis]) / 2);
  const [u, v] = [(handle.axis + 1) % 3, (handle.axis + 2) % 3] as [0 | 1 | 2, 0 | 1 | 2];
  return add(add(box.centre, axes[u], box.size[u] / 2), axes[v], box.size[v] / 2);
}

/** How far along a line (a point and a unit direction) the place nearest to the ray is; null when they are parallel. */
function alongLine(at: Vec, direction: Vec, ray: Ray): number | null {
  const b = dot(direction, ray.direction);
  const c = dot(ray.direction, ray.direction);
  const w = add(at, ray.origin, -1);
  const d = c - b * b;
  return d < 1e-9 * c ? null : (b * dot(ray.direction, w) - c * dot(direction, w)) / d;
}

function onPlane(at: Vec, normal: Vec, ray: Ray): Vec | null {
  const d = dot(normal, ray.direction);
  return Math.abs(d) < 1e-9 ? null : add(ray.origin, ray.direction, dot(normal, add(at, ray.origin, -1)) / d);
}

const turned = (v: Vec, axis: Vec, angle: number): Vec => {
  const [c, s] = [Math.cos(angle), Math.sin(angle)];
  return add(add([v[0] * c, v[1] * c, v[2] * c], cross(axis, v), s), axis, dot(axis, v) * (1 - c));
};

/** An angle from above -180 to 180 degrees. */
const halfTurn = (degrees: number) => degrees - 360 * Math.ceil((degrees - 180) / 360);

/** Row by row, what moves a box from where it stood, unturned, to where and how it stands. */
export function motionOf(start: Box, now: Box): number[] {
  const [x, y, z] = axesOf(now);
  const row = (k: 0 | 1 | 2) => [x[k], y[k], z[k], now.centre[k] - (x[k] * start.centre[0] + y[k] * start.centre[1] + z[k] * start.centre[2])];
  return [...row(0), ...row(1), ...row(2), 0, 0, 0, 1];
}

/** The box after its handle was dragged from one ray to another; unchanged where that says nothing. */
export function dragged(box: Box, handle: Handle, from: Ray, to: Ray, use: BoxUse = 'size'): Box {
  if (handle.kind === 'middle') {
    const [a, b] = [onPlane(box.centre, from.direction, from), onPlane(box.centre, from.direction, to)];
    return a && b ? { ...box, centre: add(add(box.centre, b), a, -1) } : box;
  }
  const axes = axesOf(box);
  const axis = axes[handle.axis];
  if (handle.kind === 'face') {
    const at = placeOf(box, handle);
    const [a, b] = [alongLine(at, axis, from), alongLine(at, axis, to)];
    if (a === null || b === null) return box;
    if (use !== 'size') return { ...box, centre: add(box.centre, axis, b - a) };
    const old = box.size[handle.axis];
    const side = Math.max(LEAST_MM, old + handle.side * (b - a));
    return { ...box, centre: add(box.centre, axis, (handle.side * (side - old)) / 2), size: box.size.map((s, k) => (k === handle.axis ? side : s)) as unknown as Vec };
  }
  // Turned about one axis only, that axis is the project's.
  const about = use === 'turn' ? (AXES.map((k) => (k === handle.axis ? 1 : 0)) as unknown as Vec) : axis;
  const [a, b] = [onPlane(box.centre, about, from), onPlane(box.centre, about, to)];
  if (!a || !b) return box;
  const [u, v] = [add(a, box.centre, -1), add(b, box.centre, -1)];
  const angle = Math.atan2(dot(about, cross(u, v)), dot(u, v));
  if (use === 'turn') return { ...box, turn: box.turn.map((t, k) => (k === handle.axis ? halfTurn(t + deg(angle)) : 0)) as unknown as Vec };
  return { ...box, turn: turnOf(axes.map((x) => turned(x, axis, angle)) as unknown as [Vec, Vec, Vec]) };
}
