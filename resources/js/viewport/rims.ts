import * as THREE from 'three';
import { numberMark } from './datumShapes';
import { css, FILLED, GHOST, REMOVED } from './palette';

export interface ShownRim {
  outline: readonly (readonly [number, number, number])[];
  text: string;
  wish: 'close' | 'open' | 'later';
}

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
