import * as THREE from 'three';
import { rampAt } from './palette';

const NONE = 0x5a544e;

/** Bytes of colour a shade 0 to 255, for vertex colours: those are linear, the palette is not. */
const SHADES = (() => {
  const bytes = new Uint8Array(3 * 256);
  for (let shade = 0; shade < 256; shade++) {
    const { r, g, b } = new THREE.Color(shade === 0 ? NONE : rampAt((shade - 1) / 254));
    bytes.set([r, g, b].map((v) => Math.round(255 * v)), 3 * shade);
  }
  return bytes;
})();

/** A colour a point; shade 0 stands for no figure, 1 to 255 for the ramp from light to dark. */
export function shadeColours(points: number, shadeOf: (point: number) => number): THREE.BufferAttribute {
  const colours = new Uint8Array(3 * points);
  for (let i = 0; i < points; i++) {
    const o = 3 * shadeOf(i);
    colours[3 * i] = SHADES[o]!;
    colours[3 * i + 1] = SHADES[o + 1]!;
    colours[3 * i + 2] = SHADES[o + 2]!;
  }
  return new THREE.BufferAttribute(colours, 3, true);
}
