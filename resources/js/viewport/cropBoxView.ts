import * as THREE from 'three';
import { axesOf, type Box, type BoxUse, HANDLES, type Handle, handlesFor, placeOf } from '../tools/cropBox/box';
import type { ScreenPoint } from '../tools/events';
import { numberMark } from './datumShapes';
import { AXES, css, SELECTED } from './palette';

const GRAB_PX = 14;

const signOf = (handle: Handle): [string, string] => (handle.kind === 'middle' ? ['✥', css(SELECTED)] : [handle.kind === 'turn' ? '↻' : '↔', css(AXES[handle.axis])]);

/** From project coordinates to the box's own, in which it reaches from minus half its size to half of it. */
export function intoBox(box: Box): THREE.Matrix4 {
  const [x, y, z] = axesOf(box).map((a) => new THREE.Vector3(...a)) as [THREE.Vector3, THREE.Vector3, THREE.Vector3];
  return new THREE.Matrix4()
    .makeBasis(x, y, z)
    .setPosition(...(box.centre as [number, number, number]))
    .invert();
}

/** The six sides as planes that face inwards. */
export function sidesOf(box: Box, frame: THREE.Matrix4): THREE.Plane[] {
  return HANDLES.filter((h) => h.kind === 'face').map((h) => {
    const inwards = new THREE.Vector3(...axesOf(box)[h.axis]).multiplyScalar(-h.side);
    return new THREE.Plane().setFromNormalAndCoplanarPoint(inwards, new THREE.Vector3(...placeOf(box, h))).applyMatrix4(frame);
  });
}

/** The part of a ray (in project coordinates) that is inside the box; null when it passes by. */
export function spanInside(box: Box, ray: THREE.Ray): [number, number] | null {
  const local = ray.clone().applyMatrix4(intoBox(box));
  let [from, to] = [0, Number.POSITIVE_INFINITY];
  for (let k = 0; k < 3; k++) {
    const o = local.origin.getComponent(k);
    const d = local.direction.getComponent(k);
    const half = (box.size[k] ?? 0) / 2;
    if (Math.abs(d) < 1e-12) {
      if (Math.abs(o) > half) return null;
      continue;
    }
    const [a, b] = [(-half - o) / d, (half - o) / d];
    from = Math.max(from, Math.min(a, b));
    to = Math.min(to, Math.max(a, b));
  }
  return from <= to ? [from, to] : null;
}

/** The crop box as it is drawn: its edges, and a sign at each handle. */
export class CropBoxView {
  readonly object = new THREE.Group();
  private box: Box | null = null;
  private handles = HANDLES;

  set(box: Box | null, use: BoxUse = 'size'): void {
    this.box = box;
    this.handles = handlesFor(use);
    this.object.clear();
    if (!box) return;
    const edges = new THREE.LineSegments(new THREE.EdgesGeometry(new THREE.BoxGeometry(...(box.size as [number, number, number]))), new THREE.LineBasicMaterial({ color: SELECTED }));
    edges.matrixAutoUpdate = false;
    edges.matrix.copy(intoBox(box).invert());
    this.object.add(edges);
    for (const handle of this.handles) {
      const mark = numberMark(...signOf(handle));
      mark.position.set(...(placeOf(box, handle) as [number, number, number]));
      this.object.add(mark);
    }
  }

  /** The handle under a place of the view. */
  at(at: ScreenPoint, project: (point: readonly [number, number, number]) => ScreenPoint): Handle | null {
    const box = this.box;
    if (!box) return null;
    const near = this.handles
      .map((handle) => {
        const p = project(placeOf(box, handle));
        return { handle, away: Math.hypot(p.x - at.x, p.y - at.y) };
      })
      .sort((a, b) => a.away - b.away)[0];
    return near && near.away <= GRAB_PX ? near.handle : null;
  }
}
