import * as THREE from 'three';
import { SECTION } from './palette';

/** Curves of sections, and where they stand. */
export interface ShownSection {
  /** from the numbers of the curves to millimetres of the project, 4x4 row-major */
  transform: readonly number[];
  curves: readonly { closed: boolean; points: readonly number[] }[];
}

/** The curves of a section as lines, seen through what lies before them: dimmed there, in full where nothing does. */
export function sectionObjects({ transform, curves }: ShownSection): THREE.Object3D[] {
  const ends: number[] = [];
  for (const { closed, points } of curves) {
    const n = points.length;
    for (let o = 0; o < n - (closed ? 0 : 3); o += 3) for (const k of [o, o + 1, o + 2, (o + 3) % n, (o + 4) % n, (o + 5) % n]) ends.push(points[k] ?? 0);
  }
  // About the first place: far from the origin the numbers that graphics cards take are too coarse.
  const [x, y, z] = [ends[0] ?? 0, ends[1] ?? 0, ends[2] ?? 0];
  const geometry = new THREE.BufferGeometry();
  geometry.setAttribute(
    'position',
    new THREE.Float32BufferAttribute(
      ends.map((v, k) => v - ([x, y, z][k % 3] ?? 0)),
      3,
    ),
  );
  return sectionLines(geometry).map((lines) => {
    lines.matrixAutoUpdate = false;
    lines.matrix.set(...(transform as Parameters<THREE.Matrix4['set']>)).multiply(new THREE.Matrix4().makeTranslation(x, y, z));
    return lines;
  });
}

/** Pieces of curves, dimmed where something lies before them and in full where nothing does. */
export function sectionLines(geometry: THREE.BufferGeometry): THREE.LineSegments[] {
  return [true, false].map((dimmed) => {
    const lines = new THREE.LineSegments(geometry, new THREE.LineBasicMaterial({ color: SECTION, transparent: dimmed, opacity: dimmed ? 0.45 : 1, depthTest: !dimmed, depthFunc: THREE.LessEqualDepth }));
    lines.renderOrder = dimmed ? 4 : 5;
    lines.frustumCulled = false;
    return lines;
  });
}
