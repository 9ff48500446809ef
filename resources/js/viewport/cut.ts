import * as THREE from 'three';

/** A plane beyond which the view shows nothing, in project coordinates. */
export interface Cut {
  point: readonly [number, number, number];
  /** of length 1; what lies the way it points is left out */
  normal: readonly [number, number, number];
}

/** As the renderer takes it: what lies on its far side is not drawn. */
export const planeOf = (cut: Cut, frame: THREE.Matrix4): THREE.Plane => new THREE.Plane().setFromNormalAndCoplanarPoint(new THREE.Vector3(...cut.normal).negate(), new THREE.Vector3(...cut.point)).applyMatrix4(frame);

/** The part of a span of a ray that lies before a plane; null when none does. */
export function beforePlane(plane: THREE.Plane, ray: THREE.Ray, [from, to]: readonly [number, number]): [number, number] | null {
  const along = plane.normal.dot(ray.direction);
  const height = plane.distanceToPoint(ray.origin);
  if (Math.abs(along) < 1e-12) return height >= 0 ? [from, to] : null;
  const at = -height / along;
  const kept: [number, number] = along > 0 ? [Math.max(from, at), to] : [from, Math.min(to, at)];
  return kept[0] <= kept[1] ? kept : null;
}
