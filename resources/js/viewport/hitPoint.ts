import type * as THREE from 'three';

/** What a pick looks for: the points of a cloud that are not cut away. */
interface Points {
  positions: Float32Array;
  mask: Uint8Array | null;
  /** between neighbours, as the positions have it */
  spacing: number;
}

/** Spacings without a neighbour that make a point a stray. Where a surface is met at a glance, lines of a scan lie so far apart and hold two or three points each. */
const ALONE = 4;

/**
 * Of the points within the slack about a ray those in front count, and of these the one nearest to the ray: a pick is then as exact as the points are dense.
 * A stray before a surface is looked through; it is hit where nothing else is.
 */
export function hitPoint(points: Points, ray: THREE.Ray, slack: number, [from, to]: readonly [number, number]): { index: number; along: number; isStray: boolean } | null {
  const { positions: p, mask } = points;
  const { origin: o, direction: d } = ray;
  const near: { index: number; along: number; away: number }[] = [];
  for (let i = 0, k = 0; k < p.length; i++, k += 3) {
    if (mask && !mask[i]) continue;
    const x = p[k]! - o.x;
    const y = p[k + 1]! - o.y;
    const z = p[k + 2]! - o.z;
    const along = x * d.x + y * d.y + z * d.z;
    if (along <= from || along >= to) continue;
    const away = x * x + y * y + z * z - along * along;
    if (away < slack * slack) near.push({ index: i, along, away });
  }
  near.sort((a, b) => a.along - b.along);
  const firm = near.find(({ index }) => !isStray(points, index));
  const front = firm ?? near[0];
  if (!front) return null;
  let best = front;
  for (const one of near) if (one.along >= front.along && one.along < front.along + slack && one.away < best.away) best = one;
  return { index: best.index, along: best.along, isStray: !firm };
}

/** Whether a point lies alone. Those beside it in the list mostly lie beside it in space: looked for from there on outwards, one is found at once. */
function isStray({ positions: p, mask, spacing }: Points, i: number): boolean {
  const count = p.length / 3;
  const reach = (ALONE * spacing) ** 2;
  const [x, y, z] = [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!];
  for (let away = 1; away < Math.max(i + 1, count - i); away++) {
    for (const j of [i - away, i + away]) {
      if (j < 0 || j >= count || (mask && !mask[j])) continue;
      if ((p[3 * j]! - x) ** 2 + (p[3 * j + 1]! - y) ** 2 + (p[3 * j + 2]! - z) ** 2 <= reach) return false;
    }
  }
  return true;
}
