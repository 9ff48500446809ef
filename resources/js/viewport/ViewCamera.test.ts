import * as THREE from 'three';
import { describe, expect, it } from 'vitest';
import { ViewCamera } from './ViewCamera';

function camera(parallel = false): ViewCamera {
  const made = new ViewCamera();
  made.resize(800, 600);
  made.parallel = parallel;
  made.fit(new THREE.Box3(new THREE.Vector3(-60, -40, 0), new THREE.Vector3(60, 40, 90)));
  made.update(160);
  return made;
}

const near = (a: { x: number; y: number }, b: { x: number; y: number }) => expect(Math.hypot(a.x - b.x, a.y - b.y)).toBeLessThan(0.01);

describe.each([false, true])('the camera, parallel rays: %s', (parallel) => {
  it('tells what is lost in the view or goes beyond it, as long as nobody has chosen another one', () => {
    const view = camera(parallel);
    const cube = (half: number) => new THREE.Box3(new THREE.Vector3(-half, -half, -half), new THREE.Vector3(half, half, half));
    expect(view.hasLost(cube(10))).toBe(true);
    view.fit(cube(100));
    expect([10, 49, 51, 100, 190, 210].map((half) => view.hasLost(cube(half)))).toEqual([true, true, false, false, false, true]);
    const moved = (by: number) => cube(100).translate(new THREE.Vector3(0, 0, by));
    // 346 mm from corner to corner.
    expect([100, 130, 145, -500].map((by) => view.hasLost(moved(by)))).toEqual([false, false, true, true]);
    view.position.x += 1;
    expect([view.hasLost(cube(10)), view.hasLost(moved(-500))]).toEqual([false, false]);
    view.fit(cube(10));
    expect(view.hasLost(cube(100))).toBe(true);
    view.target.z += 1;
    expect(view.hasLost(cube(100))).toBe(false);
  });

  it('shows all of a box that it was fitted to', () => {
    const view = camera(parallel);
    const box = new THREE.Box3(new THREE.Vector3(-60, -40, 0), new THREE.Vector3(60, 40, 90));
    view.fit(box);
    expect(view.shows(box)).toBe(true);
    expect([-400, 400].map((by) => view.shows(box.clone().translate(new THREE.Vector3(0, 0, by))))).toEqual([false, false]);
    for (const corner of [
      [-60, -40, 0],
      [60, 40, 90],
      [60, -40, 0],
      [-60, 40, 90],
    ]) {
      const { x, y } = view.project(new THREE.Vector3(...corner));
      expect(x > 0 && x < 800 && y > 0 && y < 600).toBe(true);
    }
  });

  it('looks through a place along the ray under it', () => {
    const view = camera(parallel);
    const at = { x: 217, y: 431 };
    const ray = view.ray(at);
    near(view.project(ray.at(view.distance, new THREE.Vector3())), at);
  });

  it('keeps what lies under the pointer at the depth of the target when it comes nearer', () => {
    const view = camera(parallel);
    const at = { x: 600, y: 200 };
    const ray = view.ray(at);
    const forward = view.target.clone().sub(view.position).normalize();
    const under = ray.at(view.target.clone().sub(ray.origin).dot(forward) / ray.direction.dot(forward), new THREE.Vector3());
    const before = view.mmPerPixel();
    view.zoom(0.5, at);
    view.update(160);
    near(view.project(under), at);
    expect(view.mmPerPixel()).toBeCloseTo(0.5 * before, 9);
  });

  it('keeps the place that it is turned about, and never goes over the top', () => {
    const view = camera(parallel);
    const about = new THREE.Vector3(20, -10, 30);
    const at = view.project(about);
    view.turn(40, -25, about);
    view.update(160);
    near(view.project(about), at);
    view.turn(0, 1e5, view.target);
    expect(view.position.z).toBeGreaterThan(view.target.z);
    expect(view.position.distanceTo(view.target)).toBeCloseTo(view.distance, 9);
  });

  it('shifts what lies at the depth of the target by the pixels of the drag', () => {
    const view = camera(parallel);
    const place = view.target.clone();
    const at = view.project(place);
    view.shift(30, -12);
    view.update(160);
    near(view.project(place), { x: at.x + 30, y: at.y - 12 });
  });

  it('looks straight at the six sides with Z or Y up', () => {
    for (const [side, up] of [
      ['front', [0, 0, 1]],
      ['left', [0, 0, 1]],
      ['top', [0, 1, 0]],
    ] as const) {
      const view = camera(parallel);
      view.look(side);
      view.update(160);
      const from = view.project(view.target);
      const to = view.project(view.target.clone().add(new THREE.Vector3(...up)));
      expect(Math.abs(to.x - from.x)).toBeLessThan(0.01);
      expect(to.y).toBeLessThan(from.y);
    }
  });
});
