const NONE = 0xffffffff;

/** The open rims of a mesh: the vertices around each, in the direction of the half-edges that no other face shares. */
export function rimLoops({ faces, adjacency }: { faces: Uint32Array; adjacency: Uint32Array }): number[][] {
  const onward = new Map<number, number[]>();
  for (let h = 0; h < faces.length; h++) {
    if (adjacency[h] !== NONE) continue;
    const from = faces[h]!;
    const to = faces[h % 3 === 2 ? h - 2 : h + 1]!;
    onward.set(from, [...(onward.get(from) ?? []), to]);
  }
  const loops: number[][] = [];
  for (const [start, ways] of onward) {
    while (ways.length > 0) {
      const loop: number[] = [];
      for (let v = start, next = ways.pop(); next !== undefined; next = v === start ? undefined : onward.get(v)?.pop()) {
        loop.push(v);
        v = next;
      }
      loops.push(loop);
    }
  }
  return loops;
}
