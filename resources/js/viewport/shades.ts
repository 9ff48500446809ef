import * as THREE from 'three';
import { RAMP, rampAt } from './palette';

const NONE = 0x5a544e;

/** Bytes of colour a shade 0 to 255, for vertex colours: those are linear, the palette is not. */
function bytesOf(ramp: readonly number[]): Uint8Array {
  const bytes = new Uint8Array(3 * 256);
  for (let shade = 0; shade < 256; shade++) {
    const { r, g, b } = new THREE.Color(shade === 0 ? NONE : rampAt((shade - 1) / 254, ramp));
    bytes.set(
      [r, g, b].map((v) => Math.round(255 * v)),
      3 * shade,
    );
  }
  return bytes;
}

const SHADES = bytesOf(RAMP);

/** The shade at a place of a triangle, of the shades of its corners by how near they are (barycentric); a corner without one does not count. */
export function shadeWithin(corners: readonly THREE.Vector3[], shades: readonly number[], at: THREE.Vector3): number | null {
  const [a, b, c] = corners as [THREE.Vector3, THREE.Vector3, THREE.Vector3];
  const near = THREE.Triangle.getBarycoord(at, a, b, c, new THREE.Vector3())?.toArray() ?? [1, 1, 1];
  const weights = shades.map((shade, k) => (shade > 0 ? Math.max(0, near[k] ?? 0) : 0));
  const all = weights.reduce((sum, w) => sum + w, 0);
  return all > 0 ? shades.reduce((sum, shade, k) => sum + shade * weights[k]!, 0) / all : null;
}

/** A colour a point; shade 0 stands for no figure, 1 to 255 for the ramp from its first colour to its last. */
export function shadeColours(points: number, shadeOf: (point: number) => number, ramp: readonly number[] = RAMP): THREE.BufferAttribute {
  const shades = ramp === RAMP ? SHADES : bytesOf(ramp);
  const colours = new Uint8Array(3 * points);
  for (let i = 0; i < points; i++) {
    const o = 3 * shadeOf(i);
    colours[3 * i] = shades[o]!;
    colours[3 * i + 1] = shades[o + 1]!;
    colours[3 * i + 2] = shades[o + 2]!;
  }
  return new THREE.BufferAttribute(colours, 3, true);
}
