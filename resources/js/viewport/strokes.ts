import * as THREE from 'three';
import { SELECTED } from './palette';

/** A stroke drawn on a part, in millimetres of the project. */
export interface ShownStroke {
  places: readonly (readonly [number, number, number])[];
  /** it becomes sides of cells: drawn through; else they run along it: dashed */
  isEdge: boolean;
}

export function strokeObject({ places, isEdge }: ShownStroke): THREE.Object3D | null {
  const first = places[0];
  if (!first || places.length < 2) return null;
  // About the first place: far from the origin the numbers that graphics cards take are too coarse.
  const buffer = new THREE.BufferGeometry().setFromPoints(places.map((at) => new THREE.Vector3(...at).sub(new THREE.Vector3(...first))));
  const line = new THREE.Line(buffer, isEdge ? new THREE.LineBasicMaterial({ color: SELECTED, depthTest: false }) : new THREE.LineDashedMaterial({ color: SELECTED, depthTest: false, dashSize: 2, gapSize: 1.2 }));
  line.computeLineDistances();
  line.position.set(...first);
  line.renderOrder = 9;
  line.frustumCulled = false;
  return line;
}
