import * as THREE from 'three';
import { numberMark } from './datumShapes';
import { css, FILLED, GHOST, REMOVED } from './palette';

export interface ShownRim {
  outline: readonly (readonly [number, number, number])[];
  text: string;
  wish: 'close' | 'open' | 'later';
}

/** Pairs of a dash and a gap around a rim. */
const DASHES = 48;

const COLOURS = { close: FILLED, open: GHOST, later: REMOVED };

/** A loop along a rim with its number beside it; dashed when it stays open. */
export function rimObjects(rim: ShownRim): THREE.Object3D[] {
  if (rim.outline.length < 3) return [];
  const points = [...rim.outline, rim.outline[0]!].map((at) => new THREE.Vector3(...at));
  const colour = COLOURS[rim.wish];
  const line = new THREE.Line(new THREE.BufferGeometry().setFromPoints(points), rim.wish === 'close' ? new THREE.LineBasicMaterial({ color: colour, depthTest: false }) : new THREE.LineDashedMaterial({ color: colour, depthTest: false, dashSize: 1, gapSize: 1 }));
  line.computeLineDistances();
  line.renderOrder = 9;
  const mark = numberMark(rim.text, css(colour));
  mark.position.copy(points[0]!);
  return [line, mark];
}

/** Rims that stay open on purpose: dashed, dimmed where the part lies before them, so that nobody takes them for faults. */
export function meantRims(outlines: readonly ShownRim['outline'][]): THREE.Object3D[] {
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
