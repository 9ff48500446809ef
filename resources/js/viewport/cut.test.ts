import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { beforePlane, planeOf } from './cut';

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
