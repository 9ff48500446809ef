import * as THREE from 'three';
import type { Place } from '../tools/rims/rims';
import { GHOST } from './palette';

/** Pairs of a dash and a gap around a rim. */
const DASHES = 48;

/** Rims that stay open on purpose: dashed, dimmed where the part lies before them, so that nobody takes them for faults. */
export function meantRims(outlines: readonly (readonly Place[])[]): THREE.Object3D[] {
  return outlines
    .filter((outline) => outline.length >= 3)
    .flatMap((outline) => {
      const points = [...outline, outline[0]!].map((at) => new THREE.Vector3(...at));
      const geometry = new THREE.BufferGeometry().setFromPoints(points);
      const around = points.slice(1).reduce((sum, at, k) => sum + at.distanceTo(points[k]!), 0);
      return [true, false].map((dimmed) => {
        const line = new THREE.Line(geometry, new THREE.LineDashedMaterial({ color: GHOST, transparent: dimmed, opacity: dimmed ? 0.35 : 1, depthTest: !dimmed, depthFunc: THREE.LessEqualDepth, dashSize: around / DASHES, gapSize: around / DASHES }));
        line.computeLineDistances();
        line.renderOrder = dimmed ? 4 : 5;
        return line;
      });
    });
}
