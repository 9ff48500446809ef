import * as THREE from 'three';
import type { Vec } from '../tools/cropBox/box';
import type { ScreenPoint } from '../tools/events';

export type StandardView = 'front' | 'back' | 'left' | 'right' | 'top' | 'bottom';

const DIRECTIONS: Record<StandardView, Vec> = {
  front: [0, -1, 0],
  back: [0, 1, 0],
  left: [-1, 0, 0],
  right: [1, 0, 0],
  top: [0, 0, 1],
  bottom: [0, 0, -1],
};

export const SIDES = ['front', 'right', 'top', 'back', 'left', 'bottom'] as const satisfies readonly StandardView[];

/** Around what is shown as a whole; the corners of the view hold buttons and the scale. */
const MARGIN = 1.15;

/** So many times as large or as small as it was, what is shown is lost in the view, or goes far beyond it. */
const OUTGROWN = 2;

/** Moved by this share of its size it is half out of the view. */
export const MOVED = 0.4;

const corners = (box: THREE.Box3): THREE.Vector3[] => [0, 1, 2, 3, 4, 5, 6, 7].map((k) => new THREE.Vector3(k & 1 ? box.min.x : box.max.x, k & 2 ? box.min.y : box.max.y, k & 4 ? box.min.z : box.max.z));

/** Nearest to straight up or down that a direction of looking comes, as a cosine: there "up" in the picture would be lost. */
const STEEPEST = 0.995;

/** A direction, bent away from straight up or down. */
function asideOfUp(direction: THREE.Vector3): THREE.Vector3 {
  const d = direction.clone().normalize();
  if (Math.abs(d.z) <= STEEPEST) return d;
  const aside = Math.hypot(d.x, d.y) > 1e-6 ? new THREE.Vector2(d.x, d.y).normalize() : new THREE.Vector2(0, -1);
  const level = Math.sqrt(1 - STEEPEST * STEEPEST);
  return new THREE.Vector3(aside.x * level, aside.y * level, Math.sign(d.z) * STEEPEST);
}

/** Where the view is taken from: turned, shifted, brought nearer; with rays that meet in the eye, or parallel ones. Z stays up. Lengths are scene millimetres, places CSS pixels. */
export class ViewCamera {
  readonly target = new THREE.Vector3();
  parallel = false;
  /** With parallel rays only its place and direction count. */
  private readonly eye = new THREE.PerspectiveCamera(32, 1, 0.1, 10000);
  private readonly flat = new THREE.OrthographicCamera();
  private width = 1;
  private height = 1;
  /** Where it stood and looked when a box was last shown as a whole, and how large that was. */
  private readonly fitted = { position: new THREE.Vector3(), target: new THREE.Vector3(), across: 0 };

  constructor() {
    this.eye.up.set(0, 0, 1);
    this.eye.position.set(180, -260, 180);
  }

  /** Looks from a side, with parallel rays. */
  static from(side: StandardView): ViewCamera {
    const camera = new ViewCamera();
    camera.parallel = true;
    camera.look(side);
    return camera;
  }

  resize(width: number, height: number): void {
    this.width = width;
    this.height = height;
    this.eye.aspect = width / height;
    this.eye.updateProjectionMatrix();
  }

  get position(): THREE.Vector3 {
    return this.eye.position;
  }

  get quaternion(): THREE.Quaternion {
    return this.eye.quaternion;
  }

  get distance(): number {
    return this.eye.position.distanceTo(this.target);
  }

  /** The camera to draw with and to look through. */
  get lens(): THREE.PerspectiveCamera | THREE.OrthographicCamera {
    return this.parallel ? this.flat : this.eye;
  }

  /**
   * Makes matrices and clipping planes fit where the camera stands now.
   *
   * @param across the size of all that is visible
   */
  update(across: number): void {
    this.eye.near = this.distance / 200;
    this.eye.far = this.distance * 50;
    this.eye.updateProjectionMatrix();
    this.eye.lookAt(this.target);
    this.eye.updateMatrixWorld();
    if (this.parallel) this.flatten(across);
  }

  /** The parallel camera shows what the other shows at the middle, from far enough back that nothing is cut off. */
  private flatten(across: number): void {
    const half = this.distance * this.slope();
    const back = this.distance + 2 * across;
    this.flat.left = -half * this.eye.aspect;
    this.flat.right = half * this.eye.aspect;
    this.flat.top = half;
    this.flat.bottom = -half;
    this.flat.near = 0;
    this.flat.far = 2 * back;
    this.flat.quaternion.copy(this.eye.quaternion);
    this.flat.position.copy(this.eye.position).sub(this.target).setLength(back).add(this.target);
    this.flat.updateProjectionMatrix();
    this.flat.updateMatrixWorld();
  }

  /** Half of what is seen at distance one. */
  private slope(): number {
    return Math.tan(THREE.MathUtils.degToRad(this.eye.fov / 2));
  }

  mmPerPixel(): number {
    return (2 * this.distance * this.slope()) / Math.max(1, this.height);
  }

  /**
   * Goes to a place, near enough that a length in millimetres fills the view.
   *
   * @param from the direction that it is looked at from; as it is now where none is named
   */
  flyTo(place: THREE.Vector3, acrossMm: number, from?: THREE.Vector3): void {
    const away = from ? asideOfUp(from) : this.away();
    this.target.copy(place);
    this.eye.position.copy(this.target).addScaledVector(away, acrossMm / (2 * this.slope()));
  }

  /** Shows all of a box, with a margin, from where it is looked from. */
  fit(box: THREE.Box3): void {
    const away = this.away();
    box.getCenter(this.target);
    const view = new THREE.Quaternion().setFromRotationMatrix(new THREE.Matrix4().lookAt(away, new THREE.Vector3(), this.eye.up)).invert();
    let distance = 0;
    for (const place of corners(box)) {
      const corner = place.sub(this.target).applyQuaternion(view);
      const aside = Math.max(Math.abs(corner.y), Math.abs(corner.x) / this.eye.aspect) / this.slope();
      distance = Math.max(distance, MARGIN * aside + (this.parallel ? 0 : corner.z));
    }
    this.eye.position.copy(this.target).addScaledVector(away, Math.max(distance, 1e-3));
    this.fitted.position.copy(this.eye.position);
    this.fitted.target.copy(this.target);
    this.fitted.across = box.getSize(new THREE.Vector3()).length();
  }

  /** Was nothing shown as a whole yet, or a box far larger, smaller or elsewhere than this one, and has nobody turned, shifted or brought nearer the view since? */
  hasLost(box: THREE.Box3): boolean {
    const { position, target, across } = this.fitted;
    const ratio = box.getSize(new THREE.Vector3()).length() / across;
    const isLost = ratio < 1 / OUTGROWN || ratio > OUTGROWN || box.getCenter(new THREE.Vector3()).distanceTo(target) > MOVED * across;
    return across === 0 || (isLost && position.equals(this.eye.position) && target.equals(this.target));
  }

  /** Are all corners of a box within the view? */
  shows(box: THREE.Box3): boolean {
    return corners(box).every((corner) => {
      const { x, y } = this.project(corner);
      return x >= 0 && x <= this.width && y >= 0 && y <= this.height;
    });
  }

  look(view: StandardView): void {
    const direction = new THREE.Vector3(...DIRECTIONS[view]);
    const { distance } = this;
    // Straight down there is no "up" along Z: a hair off it keeps Y up in the picture.
    if (Math.abs(direction.z) === 1) direction.y = -1e-4;
    this.eye.position.copy(this.target).addScaledVector(direction.normalize(), distance);
  }

  private away(): THREE.Vector3 {
    return this.eye.position.clone().sub(this.target).normalize();
  }

  /** The line of sight under a place of the view. */
  ray(at: ScreenPoint): THREE.Ray {
    const caster = new THREE.Raycaster();
    caster.setFromCamera(new THREE.Vector2((2 * at.x) / this.width - 1, 1 - (2 * at.y) / this.height), this.lens);
    return caster.ray;
  }

  project(place: THREE.Vector3): ScreenPoint {
    const v = place.clone().project(this.lens);
    return { x: (0.5 + 0.5 * v.x) * this.width, y: (0.5 - 0.5 * v.y) * this.height };
  }

  /** Turns about a place by a drag, in pixels; never over the top. */
  turn(dx: number, dy: number, pivot: THREE.Vector3): void {
    const right = new THREE.Vector3(1, 0, 0).applyQuaternion(this.eye.quaternion);
    const yaw = new THREE.Quaternion().setFromAxisAngle(this.eye.up, -0.006 * dx);
    const polar = Math.acos(THREE.MathUtils.clamp(this.away().dot(this.eye.up), -1, 1));
    const pitchBy = THREE.MathUtils.clamp(-0.006 * dy, 0.02 - polar, Math.PI - 0.02 - polar);
    const q = yaw.multiply(new THREE.Quaternion().setFromAxisAngle(right, pitchBy));
    // A target that is the pivot stays: it is copied before it is moved.
    const about = pivot.clone();
    for (const p of [this.eye.position, this.target]) p.sub(about).applyQuaternion(q).add(about);
  }

  /**
   * A place moved parallel to the screen, at the same depth.
   *
   * @param dx CSS pixels to the right
   * @param dy CSS pixels downwards
   */
  shifted(place: THREE.Vector3, dx: number, dy: number): THREE.Vector3 {
    const depth = place.clone().sub(this.eye.position).dot(this.away().negate());
    const k = this.mmPerPixel() * (this.parallel ? 1 : depth / this.distance);
    return place.clone().add(new THREE.Vector3(dx * k, -dy * k, 0).applyQuaternion(this.eye.quaternion));
  }

  shift(dx: number, dy: number): void {
    const k = this.mmPerPixel();
    const move = new THREE.Vector3(-dx * k, dy * k, 0).applyQuaternion(this.eye.quaternion);
    this.eye.position.add(move);
    this.target.add(move);
  }

  /** Comes nearer by a factor below one; the place under the pointer at the depth of the target stays under the pointer. */
  zoom(factor: number, at: ScreenPoint): void {
    const ray = this.ray(at);
    const { distance } = this;
    const forward = this.target.clone().sub(this.eye.position).normalize();
    const toward = ray.at(this.target.clone().sub(ray.origin).dot(forward) / ray.direction.dot(forward), new THREE.Vector3());
    this.eye.position.lerp(toward, 1 - factor);
    this.target.lerp(toward, 1 - factor);
    const away = this.eye.position
      .clone()
      .sub(this.target)
      .setLength(distance * factor);
    this.eye.position.copy(this.target).add(away);
  }
}
