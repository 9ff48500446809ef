import type * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import type { Geometry } from './blob';
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
