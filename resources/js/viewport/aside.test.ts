import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { Aside } from './aside';
import type { SceneItem } from './sceneItem';

const item = (x: number, radius: number) => {
  const shown = { by: null as readonly number[] | null };
  const preview = (by: readonly number[] | null): void => {
    shown.by = by;
  };
  return { shown, item: { ball: () => ({ centre: new THREE.Vector3(x, 0, 0), radius }), preview } as unknown as SceneItem };
};
const at = (by: readonly number[] | null, place: THREE.Vector3) => place.applyMatrix4(new THREE.Matrix4().fromArray([...by!]).transpose());
const RIGHT = new THREE.Vector3(1, 0, 0);
const UP = new THREE.Vector3(0, 0, 1);
const FRAME = new THREE.Matrix4();

describe('what stands aside', () => {
  it('is as large as the others and stands to the right of them, touching', () => {
    const [small, large] = [item(500, 5), item(0, 20)];
    const aside = new Aside();
    aside.set([small.item], [large.item], FRAME);
    aside.place(RIGHT, FRAME);
    expect(at(small.shown.by, new THREE.Vector3(500, 0, 0)).toArray()).toEqual([40, 0, 0]);
    // Its own edge, 5 from its middle, lies 20 from it.
    expect(at(small.shown.by, new THREE.Vector3(500, 5, 0)).y).toBeCloseTo(20, 9);
    expect(large.shown.by).toBeNull();
  });
  it('is turned on its own, about its own middle, and begins anew with other items', () => {
    const [moving, fixed, next] = [item(0, 10), item(0, 10), item(0, 10)];
    const aside = new Aside();
    aside.set([moving.item], [fixed.item], FRAME);
    aside.turn(Math.PI / 2 / 0.006, 0, RIGHT, UP);
    aside.place(RIGHT, FRAME);
    expect(at(moving.shown.by, new THREE.Vector3(0, 0, 0)).x).toBeCloseTo(20, 9);
    expect(at(moving.shown.by, new THREE.Vector3(10, 0, 0)).y).toBeCloseTo(10, 6);
    aside.set([next.item], [fixed.item], FRAME);
    aside.place(RIGHT, FRAME);
    expect(moving.shown.by).toBeNull();
    expect(at(next.shown.by, new THREE.Vector3(10, 0, 0)).y).toBeCloseTo(0, 9);
  });
});
