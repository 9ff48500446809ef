import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { beforePlane, meeting, planeOf } from './cut';

const down = new THREE.Ray(new THREE.Vector3(0, 0, 100), new THREE.Vector3(0, 0, -1));
const ahead: [number, number] = [0, Number.POSITIVE_INFINITY];

describe('a part that is cut open', () => {
  it('is seen from the plane on, where the ray comes from the side that was left out', () => {
    const plane = planeOf({ point: [5, 5, 30], normal: [0, 0, 1] }, new THREE.Matrix4());
    expect(beforePlane(plane, down, ahead)).toEqual([70, Number.POSITIVE_INFINITY]);
    expect(beforePlane(plane, down, [0, 60])).toBeNull();
  });
  it('is seen up to the plane from the other side, and all or nothing along it', () => {
    const plane = planeOf({ point: [0, 0, 30], normal: [0, 0, -1] }, new THREE.Matrix4());
    expect(beforePlane(plane, down, ahead)).toEqual([0, 70]);
    const across = new THREE.Ray(new THREE.Vector3(0, 0, 40), new THREE.Vector3(1, 0, 0));
    expect(beforePlane(plane, across, ahead)).toEqual(ahead);
    expect(beforePlane(plane, new THREE.Ray(new THREE.Vector3(0, 0, 20), new THREE.Vector3(1, 0, 0)), ahead)).toBeNull();
  });
  it('turns with the frame that is looked at', () => {
    const plane = planeOf({ point: [0, 0, 30], normal: [0, 0, 1] }, new THREE.Matrix4().makeRotationX(Math.PI / 2));
    expect(plane.distanceToPoint(new THREE.Vector3(0, -20, 0))).toBeCloseTo(10);
  });
});

describe('where a plane meets a mesh', () => {
  // A cube of 2 about the origin, two faces a side.
  const positions = new Float32Array([0, 1, 2, 3, 4, 5, 6, 7].flatMap((k) => [k & 1 ? 1 : -1, k & 2 ? 1 : -1, k & 4 ? 1 : -1]));
  const faces = new Uint32Array([0, 2, 1, 1, 2, 3, 4, 5, 6, 5, 7, 6, 0, 1, 4, 1, 5, 4, 2, 6, 3, 3, 6, 7, 0, 4, 2, 2, 4, 6, 1, 3, 5, 3, 7, 5]);
  const length = (ends: Float32Array) => {
    let sum = 0;
    for (let o = 0; o < ends.length; o += 6) sum += Math.hypot(ends[o + 3]! - ends[o]!, ends[o + 4]! - ends[o + 1]!, ends[o + 5]! - ends[o + 2]!);
    return sum;
  };
  it('gives pieces that go once around', () => {
    const ends = meeting(positions, faces, new THREE.Plane(new THREE.Vector3(0, 0, 1), -0.25));
    expect(length(ends)).toBeCloseTo(8, 5);
    for (let o = 2; o < ends.length; o += 3) expect(ends[o]).toBeCloseTo(0.25, 6);
  });
  it('closes through corners and along edges that lie in the plane', () => {
    // Each end is met twice.
    for (const plane of [new THREE.Plane(new THREE.Vector3(1, 1, 0).normalize(), 0), new THREE.Plane(new THREE.Vector3(1, 1, 1).normalize(), -1 / Math.sqrt(3))]) {
      const ends = meeting(positions, faces, plane);
      const count = new Map<string, number>();
      for (let o = 0; o < ends.length; o += 3) {
        const key = [ends[o], ends[o + 1], ends[o + 2]].map((v) => (v! + 0).toFixed(5)).join();
        count.set(key, (count.get(key) ?? 0) + 1);
      }
      expect([...count.values()].every((n) => n % 2 === 0)).toBe(true);
      expect(ends.length).toBeGreaterThan(0);
    }
  });
  it('has room for as many pieces as there are faces', () => {
    const many = 500_000;
    const strip = new Float32Array(3 * (many + 2));
    for (let v = 0; v < many + 2; v++) strip.set([v, v % 2, 0], 3 * v);
    const of = new Uint32Array(3 * many);
    for (let f = 0; f < many; f++) of.set([f, f + 1, f + 2], 3 * f);
    expect(meeting(strip, of, new THREE.Plane(new THREE.Vector3(0, 1, 0), -0.5)).length).toBe(6 * many);
  });
});
