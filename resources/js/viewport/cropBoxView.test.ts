import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { axesOf, type Box } from '../tools/cropBox/box';
import { intoBox, sidesOf, spanInside } from './cropBoxView';

const box: Box = { centre: [5, -3, 8], size: [4, 6, 10], turn: [20, -35, 70] };
const inside = (p: THREE.Vector3) => {
  const d = p.clone().sub(new THREE.Vector3(...box.centre));
  return axesOf(box).every((axis, k) => Math.abs(d.dot(new THREE.Vector3(...axis))) <= (box.size[k] ?? 0) / 2);
};
const random = (() => {
  let s = 7;
  return () => {
    s = (s * 1103515245 + 12345) & 0x7fffffff;
    return s / 0x7fffffff;
  };
})();
const somewhere = () => new THREE.Vector3(5 + 12 * (random() - 0.5), -3 + 12 * (random() - 0.5), 8 + 12 * (random() - 0.5));

describe('a turned box in the view', () => {
  it('has planes and own coordinates that agree on what is inside', () => {
    const sides = sidesOf(box, new THREE.Matrix4());
    for (let k = 0; k < 500; k++) {
      const p = somewhere();
      const own = p.clone().applyMatrix4(intoBox(box));
      expect(sides.every((s) => s.distanceToPoint(p) >= 0)).toBe(inside(p));
      expect([0, 1, 2].every((a) => Math.abs(own.getComponent(a)) <= (box.size[a] ?? 0) / 2)).toBe(inside(p));
    }
  });
  it('cuts a ray where it enters and leaves, and says when it passes by', () => {
    for (let k = 0; k < 500; k++) {
      const origin = somewhere().addScalar(30);
      const ray = new THREE.Ray(origin, somewhere().sub(origin).normalize());
      const span = spanInside(box, ray);
      const samples = Array.from({ length: 400 }, (_, i) => 30 + i * 0.1).filter((t) => inside(ray.at(t, new THREE.Vector3())));
      if (span) for (const t of samples) expect(t >= span[0] - 1e-9 && t <= span[1] + 1e-9).toBe(true);
      else expect(samples).toEqual([]);
      if (span && span[1] - span[0] > 0.3) expect(samples.length).toBeGreaterThan(0);
    }
  });
});
