import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { Overlays } from './Overlays';
import { spreadDiscs } from './rimLayer';
import type { SceneItem } from './sceneItem';

const item = { geometry: { positions: new Float32Array([0, 0, 0, 1, 0, 0, 0, 1, 0]), faces: new Uint32Array([0, 1, 2]) }, object: { matrix: new THREE.Matrix4().makeTranslation(5, 0, 0) } } as unknown as SceneItem;
const highlight = (over: Overlays) => over.gestures[2]!;

describe('what lies over the items', () => {
  it('stands where its item stands, in a previewed frame too', () => {
    const frame = new THREE.Matrix4();
    const over = new Overlays(frame, () => item);
    frame.makeRotationZ(Math.PI / 2);
    over.reframe();
    over.showFaces(item, [0], []);
    const [object] = highlight(over).children;
    const inScene = new THREE.Matrix4().multiplyMatrices(highlight(over).matrix, object!.matrix);
    expect(new THREE.Vector3(0, 0, 0).applyMatrix4(inScene).toArray().map(Math.round)).toEqual([5, 0, 0]);
  });
  it('is replaced, not heaped up', () => {
    const over = new Overlays(new THREE.Matrix4(), () => item);
    over.showFaces(item, [0], []);
    over.showFaces(item, [0], []);
    expect(highlight(over).children).toHaveLength(1);
    over.showFaces(undefined, [0], []);
    expect(highlight(over).children).toHaveLength(0);
  });
  it('draws rims that stay open twice, dimmed where the part lies before them, but not beside those of a gesture', () => {
    const over = new Overlays(new THREE.Matrix4(), () => item);
    const outline = [
      [0, 0, 0],
      [1, 0, 0],
      [0, 1, 0],
    ] as const;
    over.showMeantRims([outline, [[0, 0, 0]]]);
    const group = over.groups[4]!;
    expect(group.children).toHaveLength(2);
    over.showMeantRims([outline]);
    expect(group.children).toHaveLength(2);
    over.rims.show([{ key: 'a', itemId: 'b', outline: [], text: '1', wish: 'close' }]);
    over.keepApart(new THREE.PerspectiveCamera());
    expect(group.visible).toBe(false);
    over.rims.show([]);
    over.keepApart(new THREE.PerspectiveCamera());
    expect(group.visible).toBe(true);
  });
  it('discs of rims that lie on each other in the view are spread, none over another', () => {
    const alone = [{ x: 500, y: 0 }];
    const heap = Array.from({ length: 30 }, () => [
      { x: 100, y: 100 },
      { x: 104, y: 100 },
    ]);
    const discs = spreadDiscs([alone, ...heap], 22);
    expect(discs[0]).toEqual({ x: 500, y: 0, of: 0 });
    for (const [k, a] of discs.entries()) for (const b of discs.slice(k + 1)) expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeGreaterThanOrEqual(22);
    expect(Math.max(...discs.slice(1).map((d) => Math.hypot(d.x - 100, d.y - 100)))).toBeLessThan(120);
  });
  it('marks nothing of what is not loaded', () => {
    const over = new Overlays(new THREE.Matrix4(), () => undefined);
    over.showMarks(new Map([['gone', new Uint8Array([1])]]) as never, undefined, []);
    expect(highlight(over).children).toHaveLength(0);
  });
});
