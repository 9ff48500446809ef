import * as THREE from 'three';
import type { Marks } from './marks';
import { grow, piece, shrink, spread } from './neighbours';
import type { SceneItem } from './sceneItem';

/** The part of a viewport that selections are made of. */
export interface Seen {
  visible(): Iterable<SceneItem>;
  find(itemId: string): SceneItem | undefined;
  /** from the project to the scene */
  readonly frame: THREE.Matrix4;
}

interface Plane {
  origin: readonly [number, number, number];
  direction: readonly [number, number, number];
}

/** A byte for each point or face of every visible item. */
const marking = (view: Seen, isMarked: (item: SceneItem) => (i: number) => boolean): Marks =>
  new Map(
    [...view.visible()].map((item) => {
      const marked = isMarked(item);
      const marks = new Uint8Array(item.elements().many);
      for (let i = 0; i < marks.length; i++) if (item.mask?.[i] !== 0 && marked(i)) marks[i] = 1;
      return [item.id, marks];
    }),
  );

/** The whole piece that hangs together with a point or face. */
export function pieceAt(view: Seen, itemId: string, index: number): Marks {
  const item = view.find(itemId);
  return item ? new Map([[itemId, piece(index, item.neighbours())]]) : new Map();
}

/** The smooth area around a point or face: bends up to `angle` degrees, at most `withinMm` away. */
export function areaAt(view: Seen, itemId: string, index: number, angle: number, withinMm: number): Marks {
  const item = view.find(itemId);
  return item ? new Map([[itemId, spread(index, item.neighbours(), angle, withinMm / item.elements().mmPerUnit)]]) : new Map();
}

/** The selection one ring larger or smaller. */
export const ringOf = (view: Seen, marks: Marks, change: 'grow' | 'shrink'): Marks =>
  new Map(
    [...marks].map(([id, m]) => {
      const n = view.find(id)?.neighbours();
      return [id, n ? (change === 'grow' ? grow(m, n) : shrink(m, n)) : m];
    }),
  );

/** What is visible and not selected. */
export const inverseOf = (view: Seen, marks: Marks): Marks => marking(view, (item) => (i) => !marks.get(item.id)?.[i]);

/** What lies on the side of a plane that its direction points to, or on the other. */
export function onSide(view: Seen, plane: Plane, side: 1 | -1): Marks {
  const toProject = view.frame.clone().invert();
  const normal = new THREE.Vector3(...plane.direction);
  const level = normal.dot(new THREE.Vector3(...plane.origin));
  return marking(view, (item) => {
    const place = toProject.clone().multiply(item.object.matrix);
    const middles = item.geometry.faces ? item.neighbours() : null;
    const p = item.geometry.positions;
    const v = new THREE.Vector3();
    return (i) => {
      if (middles) v.set(...(middles.place(i) as [number, number, number]));
      else v.set(p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!);
      return side * (v.applyMatrix4(place).dot(normal) - level) > 0;
    };
  });
}

/** Least and greatest confidence of the visible points that came with one; null when none did. */
export function confidenceOf(view: Seen): [number, number] | null {
  let range: [number, number] | null = null;
  for (const item of view.visible()) {
    for (const c of item.geometry.confidence ?? []) range = range === null ? [c, c] : [Math.min(range[0], c), Math.max(range[1], c)];
  }
  return range;
}

/** Points of which the scanner was less sure than this. */
export const lessSureThan = (view: Seen, below: number): Marks =>
  marking(
    view,
    ({ geometry: { confidence } }) =>
      (i) =>
        confidence !== null && confidence[i]! < below,
  );

/** Faces that no more than a number of passes saw, filled ones included. */
export const seenByFew = (view: Seen, passes: number): Marks =>
  marking(
    view,
    ({ geometry: { faces, support } }) =>
      (i) =>
        faces !== null && support !== null && Math.min(support[faces[3 * i]!]!, support[faces[3 * i + 1]!]!, support[faces[3 * i + 2]!]!) <= passes,
  );
