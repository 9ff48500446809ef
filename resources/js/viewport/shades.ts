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
