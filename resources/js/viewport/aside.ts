import * as THREE from 'three';
import type { SceneItem } from './sceneItem';

type Ball = ReturnType<SceneItem['ball']>;

/** Radians for each pixel of a drag, as of the camera. */
const TURN = 0.006;

/** A ball around some balls. */
export function around(balls: readonly Ball[]): Ball {
  const centre = balls.reduce((sum, b) => sum.addScaledVector(b.centre, 1 / balls.length), new THREE.Vector3());
  return { centre, radius: Math.max(0, ...balls.map((b) => b.centre.distanceTo(centre) + b.radius)) };
}

/**
 * Items shown to the right of all others, as large as those and turned on their own: the same places are then found on both, however differently they lie. Turning the view turns both
 * where they are, as two views side by side would, and neither hides the other.
 */
export class Aside {
  private apart: { items: readonly SceneItem[]; ball: Ball; others: Ball } | null = null;
  /** how the items are turned on their own */
  private readonly turned = new THREE.Quaternion();

  /** What stands beside what; nothing does while there is none of either. */
  set(items: readonly SceneItem[], others: readonly SceneItem[], frame: THREE.Matrix4): void {
    const before = this.apart?.items ?? [];
    for (const item of before) if (!items.includes(item)) item.preview(null, frame);
    if (items.length !== before.length || items.some((item) => !before.includes(item))) this.turned.identity();
    this.apart = items.length > 0 && others.length > 0 ? { items, ball: around(items.map((item) => item.ball())), others: around(others.map((other) => other.ball())) } : null;
  }

  get isShown(): boolean {
    return this.apart !== null;
  }

  /** What a turn of the view is about, in the project: the middle of the others, not the empty place between. */
  get pivot(): THREE.Vector3 | null {
    return this.apart?.others.centre ?? null;
  }

  /**
   * Turns what stands aside by a drag, in pixels.
   *
   * @param right the direction to the right in the view, and `up` that which stays up, in the project
   */
  turn(dx: number, dy: number, right: THREE.Vector3, up: THREE.Vector3): void {
    this.turned.premultiply(new THREE.Quaternion().setFromAxisAngle(up, TURN * dx)).premultiply(new THREE.Quaternion().setFromAxisAngle(right, TURN * dy));
  }

  /** @param right the direction to the right in the view, in the project */
  place(right: THREE.Vector3, frame: THREE.Matrix4): void {
    if (!this.apart) return;
    const { items, ball, others } = this.apart;
    const scale = ball.radius > 0 && others.radius > 0 ? others.radius / ball.radius : 1;
    const to = others.centre.clone().addScaledVector(right, others.radius + scale * ball.radius);
    const by = new THREE.Matrix4().compose(to, this.turned, new THREE.Vector3(scale, scale, scale)).multiply(new THREE.Matrix4().makeTranslation(-ball.centre.x, -ball.centre.y, -ball.centre.z));
    // Row by row, as poses are told.
    for (const item of items) item.preview(by.clone().transpose().toArray(), frame);
  }
}
