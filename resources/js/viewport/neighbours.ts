/** Who is next to whom: faces across edges, points within a few spacings. Built once an item, when a gesture first asks. */
export interface Neighbours {
  count: number;
  /** hands every neighbour of an element to `visit` */
  each(i: number, visit: (j: number) => void): void;
  /** unit normal, up to its sign */
  normal(i: number): readonly [number, number, number];
  place(i: number): readonly [number, number, number];
}

const NONE = 0xffffffff;

export function meshNeighbours({ positions: p, faces, adjacency }: { positions: Float32Array; faces: Uint32Array; adjacency: Uint32Array }): Neighbours {
  const corner = (i: number, c: number) => 3 * faces[3 * i + c]!;
  return {
    count: faces.length / 3,
    each(i, visit) {
      for (let h = 3 * i; h < 3 * i + 3; h++) {
        const j = adjacency[h]!;
        if (j !== NONE) visit(j);
      }
    },
    normal(i) {
      const [a, b, c] = [corner(i, 0), corner(i, 1), corner(i, 2)];
      const [ux, uy, uz] = [p[b]! - p[a]!, p[b + 1]! - p[a + 1]!, p[b + 2]! - p[a + 2]!];
      const [vx, vy, vz] = [p[c]! - p[a]!, p[c + 1]! - p[a + 1]!, p[c + 2]! - p[a + 2]!];
      const n = [uy * vz - uz * vy, uz * vx - ux * vz, ux * vy - uy * vx] as const;
      const l = Math.hypot(...n) || 1;
      return [n[0] / l, n[1] / l, n[2] / l];
    },
    place(i) {
      const [a, b, c] = [corner(i, 0), corner(i, 1), corner(i, 2)];
      return [(p[a]! + p[b]! + p[c]!) / 3, (p[a + 1]! + p[b + 1]! + p[c + 1]!) / 3, (p[a + 2]! + p[b + 2]! + p[c + 2]!) / 3];
    },
  };
}

/** The distance between neighbouring points, from how many cells of a raster they occupy. */
export function spacingOf(p: Float32Array, count: number): number {
  const low = [Infinity, Infinity, Infinity];
  const high = [-Infinity, -Infinity, -Infinity];
  for (let o = 0; o < 3 * count; o++) {
    const v = p[o]!;
    const k = o % 3;
    if (v < low[k]!) low[k] = v;
    if (v > high[k]!) high[k] = v;
  }
  const side = Math.max(high[0]! - low[0]!, high[1]! - low[1]!, high[2]! - low[2]!) || 1;
  // Coarse enough that a cell of the surface holds several points.
  const cells = Math.max(4, Math.min(64, Math.floor(Math.sqrt(count / 12))));
  const w = cells / (side * 1.0001);
  const seen = new Set<number>();
  for (let o = 0; o < 3 * count; o += 3) seen.add((Math.floor((p[o]! - low[0]!) * w) * cells + Math.floor((p[o + 1]! - low[1]!) * w)) * cells + Math.floor((p[o + 2]! - low[2]!) * w));
  return Math.sqrt((seen.size * (side / cells) ** 2) / 1.5 / count);
}

export function cloudNeighbours({ positions: p }: { positions: Float32Array }, mask: Uint8Array | null): Neighbours {
  const count = p.length / 3;
  const reach = 3 * spacingOf(p, count);
  const w = 1 / reach;
  const bits = 1 << 17;
  const cellOf = (x: number, y: number, z: number) => (Math.floor(x) + bits / 2) * bits * bits + (Math.floor(y) + bits / 2) * bits + Math.floor(z) + bits / 2;
  const first = new Map<number, number>();
  const next = new Int32Array(count).fill(-1);
  for (let i = count - 1; i >= 0; i--) {
    if (mask && !mask[i]) continue;
    const cell = cellOf(p[3 * i]! * w, p[3 * i + 1]! * w, p[3 * i + 2]! * w);
    next[i] = first.get(cell) ?? -1;
    first.set(cell, i);
  }
  const each = (i: number, visit: (j: number) => void) => {
    const [x, y, z] = [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!];
    for (let a = -1; a <= 1; a++)
      for (let b = -1; b <= 1; b++)
        for (let c = -1; c <= 1; c++) {
          for (let j = first.get(cellOf(x * w + a, y * w + b, z * w + c)) ?? -1; j >= 0; j = next[j]!) {
            if (j !== i && (p[3 * j]! - x) ** 2 + (p[3 * j + 1]! - y) ** 2 + (p[3 * j + 2]! - z) ** 2 <= reach * reach) visit(j);
          }
        }
  };
  const normals = new Map<number, readonly [number, number, number]>();
  return {
    count,
    each,
    normal(i) {
      const known = normals.get(i);
      if (known) return known;
      const near: number[] = [i];
      each(i, (j) => near.push(j));
      const found = planeNormal(p, near);
      normals.set(i, found);
      return found;
    },
    place: (i) => [p[3 * i]!, p[3 * i + 1]!, p[3 * i + 2]!],
  };
}

/** The direction in which the points spread least: power iteration on what the covariance lacks to its trace. */
function planeNormal(p: Float32Array, near: readonly number[]): readonly [number, number, number] {
  let [mx, my, mz] = [0, 0, 0];
  for (const j of near) {
    mx += p[3 * j]!;
    my += p[3 * j + 1]!;
    mz += p[3 * j + 2]!;
  }
  mx /= near.length;
  my /= near.length;
  mz /= near.length;
  let [xx, xy, xz, yy, yz, zz] = [0, 0, 0, 0, 0, 0];
  for (const j of near) {
    const [x, y, z] = [p[3 * j]! - mx, p[3 * j + 1]! - my, p[3 * j + 2]! - mz];
    xx += x * x;
    xy += x * y;
    xz += x * z;
    yy += y * y;
    yz += y * z;
    zz += z * z;
  }
  const trace = xx + yy + zz;
  let n: [number, number, number] = [0.577, 0.571, 0.583];
  for (let round = 0; round < 24; round++) {
    const m: [number, number, number] = [(trace - xx) * n[0] - xy * n[1] - xz * n[2], -xy * n[0] + (trace - yy) * n[1] - yz * n[2], -xz * n[0] - yz * n[1] + (trace - zz) * n[2]];
    const l = Math.hypot(...m) || 1;
    n = [m[0] / l, m[1] / l, m[2] / l];
  }
  return n;
}

/** One ring more. */
export function grow(marks: Uint8Array, n: Neighbours): Uint8Array {
  const out = marks.slice();
  for (let i = 0; i < marks.length; i++)
    if (marks[i])
      n.each(i, (j) => {
        out[j] = 1;
      });
  return out;
}

/** One ring less; at a rim, where there is nobody, nothing is taken. */
export function shrink(marks: Uint8Array, n: Neighbours): Uint8Array {
  const out = marks.slice();
  for (let i = 0; i < marks.length; i++)
    if (marks[i])
      n.each(i, (j) => {
        if (!marks[j]) out[i] = 0;
      });
  return out;
}

function flood(seed: number, n: Neighbours, passes: (from: number, to: number) => boolean): Uint8Array {
  const marks = new Uint8Array(n.count);
  const stack = [seed];
  marks[seed] = 1;
  for (let i = stack.pop(); i !== undefined; i = stack.pop()) {
    const from = i;
    n.each(from, (j) => {
      if (!marks[j] && passes(from, j)) {
        marks[j] = 1;
        stack.push(j);
      }
    });
  }
  return marks;
}

/** Everything that hangs together with an element. */
export const piece = (seed: number, n: Neighbours): Uint8Array => flood(seed, n, () => true);

/** The smooth area around an element: neighbours bend by no more than the angle (degrees), and none is farther away than `within`. */
export function spread(seed: number, n: Neighbours, angle: number, within: number): Uint8Array {
  const least = Math.cos((angle * Math.PI) / 180);
  const [x, y, z] = n.place(seed);
  return flood(seed, n, (from, to) => {
    const a = n.normal(from);
    const b = n.normal(to);
    if (Math.abs(a[0] * b[0] + a[1] * b[1] + a[2] * b[2]) < least) return false;
    const [px, py, pz] = n.place(to);
    return Math.hypot(px - x, py - y, pz - z) <= within;
  });
}
