import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import type { Geometry } from './blob';
import { Aside } from './aside';
import { FILLED, MEASURED } from './palette';
import { SceneItem } from './sceneItem';

const bounds = { min: [0, 0, 0] as [number, number, number], max: [90, 1, 0] as [number, number, number] };
const geometry = (over: Partial<Geometry>): Geometry => ({ origin: [0, 0, 0], bounds, positions: new Float32Array([0, 0, 0, 90, 0, 0, 1, 1, 0]), faces: null, faceOrigin: null, support: null, spread: null, weight: null, adjacency: null, every: 1, ...over }) as Geometry;

describe('what is drawn', () => {
  it('reaches as far as what is not cut away', () => {
    expect(new SceneItem('p', 'pass', geometry({}), null, 0).box().max.x).toBe(90);
    expect(new SceneItem('p', 'pass', geometry({}), new Uint8Array([1, 0, 1]), 0).box().max.x).toBe(1);
    expect(new SceneItem('p', 'pass', geometry({}), new Uint8Array(3), 0).box().max.x).toBe(90);
  });

  it('leaves strays out of the whole, but not a thin end', () => {
    const part = Array.from({ length: 4000 }, (_, k) => [k % 100, (k / 100) % 40, 0]);
    const points = [...part, [115, 20, 0], [3000, 0, 0], [0, -900, 50]].flat();
    const item = new SceneItem('p', 'pass', geometry({ positions: Float32Array.from(points), bounds: { min: [0, -900, 0], max: [3000, 40, 50] } }), null, 0);
    const { min, max } = item.box();
    expect(max.x).toBeGreaterThanOrEqual(115);
    expect(max.x).toBeLessThan(125);
    expect([min.x, max.z]).toEqual([0, 0]);
    expect(min.y).toBeGreaterThan(-10);
  });

  it('is as large in the scene as its points are, however it is turned', () => {
    const square = [0, 0, 0, 100, 0, 0, 0, 100, 0, 100, 100, 0];
    const item = new SceneItem('p', 'pass', geometry({ positions: Float32Array.from([...square, 50, 50, 0]) }), new Uint8Array([0, 0, 0, 0, 1]), 0);
    expect(item.box().getSize(new THREE.Vector3()).length()).toBe(0);
    const turned = new SceneItem('p', 'pass', geometry({ positions: Float32Array.from(square) }), null, 0);
    const frame = new THREE.Matrix4().makeRotationZ(Math.PI / 4);
    turned.place([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], new THREE.Matrix4());
    expect(turned.box().max.x).toBe(100);
    turned.reframe(frame);
    expect(turned.box().max.x).toBeCloseTo(100 * Math.SQRT1_2, 6);
    // A box that stands askew in its blob comes upright in the scene: no larger than the square it is.
    const askew = new SceneItem('p', 'pass', geometry({ positions: Float32Array.from([0, 70, 0, 70, 0, 0, 70, 140, 0, 140, 70, 0]) }), null, 0);
    askew.place([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], frame);
    expect(askew.box().getSize(new THREE.Vector3()).x).toBeCloseTo(70 * Math.SQRT2, 4);
  });

  const down = new THREE.Ray(new THREE.Vector3(0, 0, 100), new THREE.Vector3(0, 0, -1));
  const cloudOf = (...points: number[][]) => {
    const item = new SceneItem('p', 'pass', geometry({ positions: Float32Array.from(points.flat()) }), null, 0);
    item.place([1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], new THREE.Matrix4());
    return item;
  };
  const sheet = (many: number, place: (u: number, v: number) => number[]) => Array.from({ length: many * many }, (_, k) => place((k % many) - (many - 1) / 2, Math.floor(k / many) - (many - 1) / 2));

  it('is hit at the point nearest to the pointer among those in front', () => {
    // One row at the front, a little off the ray and a little nearer the eye on its left; another far behind, right on the ray.
    const item = cloudOf(...[-0.5, -0.4, -0.1, 0.3].map((x) => [x, 0, 10 - x]), [0, 0, -40]);
    expect(item.hit(down, 1)).toMatchObject({ index: 2, isStray: false });
    expect(item.hit(down, 0.05)).toMatchObject({ index: 4, isStray: true });
    // What a cut hides is not hit.
    expect(item.hit(down, 1, [95, 200])?.index).toBe(4);
    expect(item.hit(down, 1, [0, 85])).toBeNull();
  });

  it('is hit through strays before a surface, and at a stray where nothing else is', () => {
    const floor = sheet(21, (u, v) => [u, v, 0]);
    const item = cloudOf(...floor, [0.1, 0, 60], [0, 0.3, 30], [8, 40, 30]);
    expect(item.hit(down, 0.5)).toMatchObject({ index: 220, isStray: false });
    expect(item.hit(down, 0.5)?.point.z).toBe(0);
    const beside = new THREE.Ray(new THREE.Vector3(8, 40, 100), new THREE.Vector3(0, 0, -1));
    expect(item.hit(beside, 0.5)).toMatchObject({ index: 443, isStray: true });
  });

  it('is hit where a scan line meets it at a glance, two points long', () => {
    const item = cloudOf(...sheet(21, (u, v) => [u, v, 0]), [0.1, 0, 60], [1.1, 0, 60]);
    expect(item.hit(down, 0.5)?.index).toBe(441);
  });

  it('is hit at the edge of a thin top however many points of the wall below it lie in a row behind', () => {
    // The top ends above the ray; seen from above the wall is edge on, forty points of it behind every one of the top.
    const top = sheet(21, (u, v) => [u - 10, v, 0]);
    const wall = sheet(41, (u, v) => [0.01, u / 2, -(v + 20.5) / 4]);
    for (const item of [cloudOf(...top, ...wall), cloudOf(...wall, ...top)]) expect(item.hit(down, 0.5)?.point.z).toBe(0);
  });

  it('has a colour of its own where each body has one, made-up surface too', () => {
    const body = new SceneItem('b', 'body', geometry({ faces: new Uint32Array([0, 1, 2]), faceOrigin: new Uint8Array([1]) }), null, 0x123456);
    const [plain, filled] = body.object.material as THREE.MeshStandardMaterial[];
    const groups = () => body.object.geometry.groups.map((g) => g.materialIndex);
    body.paint('evidence', 1);
    expect([plain?.color.getHex(), filled?.color.getHex()]).toEqual([MEASURED, FILLED]);
    expect(new Set(groups()).size).toBeGreaterThan(1);
    body.paint('own', 1);
    expect(plain?.color.getHex()).toBe(0x123456);
    expect(new Set(groups())).toEqual(new Set([0]));
    expect(body.recolour(0x123456)).toBe(false);
    expect(body.recolour(0x654321)).toBe(true);
    body.paint('own', 1);
    expect(plain?.color.getHex()).toBe(0x654321);
  });
});

const shift = (x: number, y: number, z: number): number[] => [1, 0, 0, x, 0, 1, 0, y, 0, 0, 1, z, 0, 0, 0, 1];
const whole = new THREE.Matrix4();

describe('what is shown elsewhere than it stands', () => {
  const down = (x: number, y: number) => new THREE.Ray(new THREE.Vector3(x, y, 50), new THREE.Vector3(0, 0, -1));

  it('is hit where it is shown, and says where it stands: a pass and a body', () => {
    for (const faces of [null, new Uint32Array([0, 1, 2])]) {
      const item = new SceneItem('p', 'pass', geometry({ faces }), null, 0);
      item.place(shift(0, 0, 7), whole);
      item.preview(shift(200, 0, 0), whole);
      expect(item.hit(down(290, 0), 0.5)?.point.toArray().map(Math.round)).toEqual([90, 0, 7]);
      expect(item.hit(down(90, 0), 0.5)).toBeNull();
      expect(item.shown(new THREE.Vector3(90, 0, 7)).toArray()).toEqual([290, 0, 7]);
      item.preview(null, whole);
      expect(item.hit(down(90, 0), 0.5)?.point.toArray().map(Math.round)).toEqual([90, 0, 7]);
    }
  });

  it('leaves a pale copy where picked pairs bring it, wherever it is shown, turned too', () => {
    const item = new SceneItem('p', 'pass', geometry({}), null, 0);
    item.place([0, -1, 0, 4, 1, 0, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], whole);
    item.showCopy(shift(0, 0, 30));
    const at = () => {
      const [copy] = item.object.children;
      return copy && new THREE.Vector3(90, 0, 0).applyMatrix4(new THREE.Matrix4().multiplyMatrices(item.object.matrix, copy.matrix)).toArray().map(Math.round);
    };
    expect(at()).toEqual([4, 90, 30]);
    item.preview(shift(200, 0, 0), whole);
    expect(at()).toEqual([4, 90, 30]);
    item.place(shift(0, 0, 0), new THREE.Matrix4().makeTranslation(0, 0, 5));
    expect(at()).toEqual([90, 0, 35]);
    item.showCopy(null);
    expect(at()).toBeUndefined();
  });

  it('stands to the right of all others, whatever side is looked from, clear of them by what it is without strays', () => {
    const grid = (far: number) => Float32Array.from([...Array.from({ length: 1000 }, (_, k) => [k % 10, Math.floor(k / 10) % 10, Math.floor(k / 100)]).flat(), far, far, far]);
    const cloud = (id: string, z: number) => {
      const item = new SceneItem(id, 'pass', geometry({ positions: grid(1e4) }), null, 0);
      item.place(shift(0, 0, z), whole);
      return item;
    };
    const [moving, ...others] = [cloud('m', 3), cloud('a', 0), cloud('b', 0)];
    const aside = new Aside();
    aside.set([moving!], others, whole);
    expect(aside.pivot?.toArray()).toEqual([4.5, 4.5, 4.5]);
    for (const right of [new THREE.Vector3(1, 0, 0), new THREE.Vector3(0.6, -0.8, 0)]) {
      aside.place(right, whole);
      const off = moving!.shown(moving!.ball().centre).sub(aside.pivot!);
      expect(off.clone().normalize().dot(right)).toBeCloseTo(1, 9);
      expect(off.length()).toBeGreaterThan(10);
      expect(off.length()).toBeLessThan(20);
    }
    aside.set([], others, whole);
    expect(moving!.shown(new THREE.Vector3()).toArray()).toEqual([0, 0, 0]);
    expect([aside.isShown, aside.pivot]).toEqual([false, null]);
    // Alone there is nothing to stand beside.
    aside.set([moving!], [], whole);
    aside.place(new THREE.Vector3(1, 0, 0), whole);
    expect(moving!.shown(new THREE.Vector3()).toArray()).toEqual([0, 0, 0]);
  });
  it('an open rim is known by its corner, mm in the project, and by no other', () => {
    const N = 0xffffffff;
    const square = geometry({ kind: 'mesh', positions: new Float32Array([0, 0, 0, 1, 0, 0, 1, 1, 0, 0, 1, 0]), faces: new Uint32Array([0, 1, 2, 0, 2, 3]), adjacency: new Uint32Array([N, N, 1, 0, N, N]) } as Partial<Geometry>);
    const item = new SceneItem('b', 'body', square, null, 0);
    item.place([1, 0, 0, 100, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1], new THREE.Matrix4());
    expect(item.rimAt([101, 1, 0])).toEqual([
      [101, 1, 0],
      [100, 1, 0],
      [100, 0, 0],
      [101, 0, 0],
    ]);
    expect(item.rimAt([101, 1.5, 0])).toBeNull();
    expect(item.nearestTo([101.2, 0, 0])).toMatchObject({ index: 0 });
    expect(item.outwardAt([100.5, 0.5, 0], 10)?.toArray()).toEqual([0, 0, 1]);
  });
});
