import * as THREE from 'three';
import { countOf } from './marks';
import { GHOST, SELECTED } from './palette';
import type { SceneItem } from './sceneItem';
import { striped } from './surface';

/** What is drawn over an item for its marks: amber where they are, a pale striped ghost where they lie behind others. */
export function markedObjects(item: SceneItem, marked: Uint8Array, ghost: Uint8Array | undefined, clippingPlanes: THREE.Plane[]): THREE.Object3D[] {
  const isMesh = item.geometry.faces !== null;
  const drawn: THREE.Object3D[] = [];
  const solid = only(item, marked);
  if (solid) {
    drawn.push(
      isMesh
        ? new THREE.Mesh(solid, new THREE.MeshStandardMaterial({ color: SELECTED, roughness: 0.8, side: THREE.DoubleSide, polygonOffset: true, polygonOffsetFactor: -2, polygonOffsetUnits: -2, clippingPlanes }))
        : new THREE.Points(solid, new THREE.PointsMaterial({ color: SELECTED, size: 2.4, sizeAttenuation: false, clippingPlanes })),
    );
  }
  const behind =
    ghost &&
    only(
      item,
      ghost.map((m, i) => m & marked[i]!),
    );
  if (behind) {
    const object = isMesh
      ? new THREE.Mesh(behind, striped(new THREE.MeshBasicMaterial({ color: GHOST, side: THREE.DoubleSide, depthTest: false, transparent: true, clippingPlanes })))
      : new THREE.Points(behind, striped(new THREE.PointsMaterial({ color: GHOST, size: 2.4, sizeAttenuation: false, depthTest: false, transparent: true, clippingPlanes })));
    object.renderOrder = 5;
    drawn.push(object);
  }
  return drawn;
}

/** The marked points or faces alone. */
function only(item: SceneItem, marked: Uint8Array): THREE.BufferGeometry | null {
  const many = countOf(marked);
  if (many === 0) return null;
  const faces = item.geometry.faces;
  const index = new Uint32Array(faces ? 3 * many : many);
  for (let i = 0, k = 0; i < marked.length; i++) {
    if (!marked[i]) continue;
    if (faces) for (let c = 0; c < 3; c++) index[k++] = faces[3 * i + c]!;
    else index[k++] = i;
  }
  const buffer = new THREE.BufferGeometry();
  buffer.setAttribute('position', new THREE.BufferAttribute(item.geometry.positions, 3));
  // Lit like the surface beneath, so that its relief is seen under the colour.
  const normals = item.object.geometry?.getAttribute('normal');
  if (normals) buffer.setAttribute('normal', normals);
  buffer.setIndex(new THREE.BufferAttribute(index, 1));
  return buffer;
}
