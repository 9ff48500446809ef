/** Size and closedness of a binary STL. */
export function readStl(bytes: Buffer): { faces: number; closed: boolean; min: number[]; max: number[] } {
  const faces = bytes.readUInt32LE(80);
  const min = [Infinity, Infinity, Infinity];
  const max = [-Infinity, -Infinity, -Infinity];
  const edges = new Map<string, number>();
  for (let f = 0; f < faces; f++) {
    const corners: string[] = [];
    for (let c = 0; c < 3; c++) {
      const o = 84 + 50 * f + 12 + 12 * c;
      corners.push(bytes.subarray(o, o + 12).toString('latin1'));
      for (let k = 0; k < 3; k++) {
        const v = bytes.readFloatLE(o + 4 * k);
        min[k] = Math.min(min[k]!, v);
        max[k] = Math.max(max[k]!, v);
      }
    }
    for (let c = 0; c < 3; c++) {
      const [a, b] = [corners[c]!, corners[(c + 1) % 3]!];
      if (a === b) throw new Error(`face ${f} has an edge without length`);
      edges.set(a < b ? a + b : b + a, (edges.get(a < b ? a + b : b + a) ?? 0) + (a < b ? 1 : -1));
    }
  }
  return { faces, closed: [...edges.values()].every((n) => n === 0), min, max };
}
