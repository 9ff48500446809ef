import * as THREE from 'three';
import { DIVERGING, rampAt, SELECTED } from './palette';

/** Some faces of a mesh laid over it, in amber, or each in the colour of its share -1 to 1. */
export function facesOver(positions: Float32Array, corners: Uint32Array, faces: readonly number[], shares: readonly number[]): THREE.Mesh {
  const at = new Float32Array(9 * faces.length);
  const colours = new Float32Array(9 * faces.length);
  const colour = new THREE.Color(SELECTED);
  faces.forEach((face, k) => {
    const share = shares[k];
    if (share !== undefined) colour.set(rampAt((1 + share) / 2, DIVERGING));
    for (let c = 0; c < 3; c++) {
      const v = 3 * (corners[3 * face + c] ?? 0);
      at.set([positions[v] ?? 0, positions[v + 1] ?? 0, positions[v + 2] ?? 0], 9 * k + 3 * c);
      colours.set([colour.r, colour.g, colour.b], 9 * k + 3 * c);
    }
  });
  const buffer = new THREE.BufferGeometry();
  buffer.setAttribute('position', new THREE.BufferAttribute(at, 3));
  buffer.setAttribute('color', new THREE.BufferAttribute(colours, 3));
  return new THREE.Mesh(buffer, new THREE.MeshBasicMaterial({ vertexColors: true, transparent: true, opacity: shares.length > 0 ? 0.85 : 0.55, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2 }));
}
