import * as THREE from 'three';
import { MEASURED } from './palette';
import { shadeColours } from './shades';

/** A body with fewer faces, as it would be. */
export interface ShownLevel {
  positions: Float32Array;
  faces: Uint32Array;
  /** a byte a vertex, 1 to 255 from near to far; null shows the surface alone */
  shades: Uint8Array | null;
}

/** Up to this count the sides of faces are drawn: of more there is nothing between the lines. */
const WIRED = 60_000;

/** Its faces each lit by its own normal, and with its sides where it shows no distances, so that they are seen. */
export function levelLayer({ positions, faces, shades }: ShownLevel): THREE.Mesh {
  const buffer = new THREE.BufferGeometry();
  buffer.setAttribute('position', new THREE.BufferAttribute(positions, 3));
  buffer.setIndex(new THREE.BufferAttribute(faces, 1));
  if (shades)
    buffer.setAttribute(
      'color',
      shadeColours(shades.length, (v) => shades[v]!),
    );
  const layer = new THREE.Mesh(buffer, new THREE.MeshStandardMaterial({ color: shades ? 0xffffff : MEASURED, roughness: 0.8, side: THREE.DoubleSide, flatShading: true, vertexColors: shades !== null }));
  layer.frustumCulled = false;
  if (!shades && faces.length <= 3 * WIRED) {
    const sides = new THREE.LineSegments(new THREE.WireframeGeometry(buffer), new THREE.LineBasicMaterial({ color: 0x000000, transparent: true, opacity: 0.3 }));
    sides.frustumCulled = false;
    layer.add(sides);
    Object.assign(layer.material, { polygonOffset: true, polygonOffsetFactor: 1, polygonOffsetUnits: 1 });
  }
  return layer;
}

/** Every object of a level that holds something of the graphics card. */
export function partsOf(layer: THREE.Mesh): (THREE.Mesh | THREE.LineSegments)[] {
  return [layer, ...layer.children.filter((child) => child instanceof THREE.LineSegments)];
}
