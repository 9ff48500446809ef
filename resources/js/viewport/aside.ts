import * as THREE from 'three';
import type { SceneItem } from './sceneItem';

type Ball = ReturnType<SceneItem['ball']>;

/** A ball around some balls. */
export function around(balls: readonly Ball[]): Ball {
  const centre = balls.reduce((sum, b) => sum.addScaledVector(b.centre, 1 / balls.length), new THREE.Vector3());
  return { centre, radius: Math.max(0, ...balls.map((b) => b.centre.distanceTo(centre) + b.radius)) };
}

/**
 * Items shown to the right of all others as they stand to each other, whatever side they are looked at from: turning the view turns both where they are, as two views side by side
 * would, and neither hides the other.
 */
export class Aside {
  private apart: { items: readonly SceneItem[]; ball: Ball; others: Ball } | null = null;

  /** What stands beside what; nothing does while there is none of either. */
  set(items: readonly SceneItem[], others: readonly SceneItem[], frame: THREE.Matrix4): void {
    for (const item of this.apart?.items ?? []) if (!items.includes(item)) item.preview(null, frame);
    this.apart = items.length > 0 && others.length > 0 ? { items, ball: around(items.map((item) => item.ball())), others: around(others.map((other) => other.ball())) } : null;
  }

  get isShown(): boolean {
    return this.apart !== null;
  }

  /** What a turn of the view is about, in the project: the middle of the others, not the empty place between. */
  get pivot(): THREE.Vector3 | null {
    return this.apart?.others.centre ?? null;
  }

  /** @param right the direction to the right in the view, in the project */
  place(right: THREE.Vector3, frame: THREE.Matrix4): void {
    if (!this.apart) return;
    const { items, ball, others } = this.apart;
    const by = others.centre
      .clone()
      .addScaledVector(right, others.radius + ball.radius)
      .sub(ball.centre);
    for (const item of items) item.preview([1, 0, 0, by.x, 0, 1, 0, by.y, 0, 0, 1, by.z, 0, 0, 0, 1], frame);
  }
}
