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

/**
 * Where a plane meets the faces of a mesh: the two ends of each piece, xyz after xyz. A corner that lies in the plane counts as before it, so that neighbours agree.
 *
 * @param plane in the numbers of the positions
 */
export function meeting(positions: Float32Array, faces: Uint32Array, plane: THREE.Plane): Float32Array {
  const { x, y, z } = plane.normal;
  const heights = new Float32Array(positions.length / 3);
  for (let v = 0, o = 0; v < heights.length; v++, o += 3) heights[v] = x * positions[o]! + y * positions[o + 1]! + z * positions[o + 2]! + plane.constant;
  let ends = new Float32Array(6 * 1024);
  let used = 0;
  const cross = (a: number, b: number) => {
    // From the smaller number to the larger, whichever face asks: neighbours meet in the same place.
    const [from, to] = a < b ? [a, b] : [b, a];
    const t = heights[from]! / (heights[from]! - heights[to]!);
    for (let k = 0; k < 3; k++) ends[used++] = positions[3 * from + k]! + t * (positions[3 * to + k]! - positions[3 * from + k]!);
  };
  for (let o = 0; o < faces.length; o += 3) {
    const a = faces[o]!;
    const b = faces[o + 1]!;
    const c = faces[o + 2]!;
    const [p, q, r] = [heights[a]! >= 0, heights[b]! >= 0, heights[c]! >= 0];
    if (p === q && q === r) continue;
    if (used + 6 > ends.length) {
      const more = new Float32Array(2 * ends.length);
      more.set(ends);
      ends = more;
    }
    if (p !== q) cross(a, b);
    if (q !== r) cross(b, c);
    if (r !== p) cross(c, a);
  }
  return ends.slice(0, used);
}
