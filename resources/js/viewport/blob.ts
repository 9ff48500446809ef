/** Reads a blob (docs/blob.md): typed arrays straight over the bytes, nothing copied. */
export interface Geometry {
  kind: 'mesh' | 'cloud';
  origin: [number, number, number];
  positions: Float32Array;
  faces: Uint32Array | null;
  /** the face across each edge, 0xffffffff for none */
  adjacency: Uint32Array | null;
  support: Uint8Array | null;
  /** how far points lie off the surface at a vertex, in steps of 0.0001 of the blob's unit */
  spread: Uint16Array | null;
  /** what the points around a vertex weigh, in hundredths; of rebuilt surface its share of the usual density */
  weight: Uint16Array | null;
  faceOrigin: Uint8Array | null;
  /** faces that make a four-sided cell with the next */
  quads: Uint32Array | null;
  confidence: Float32Array | null;
  /** a stand-in holds one point of the cloud in this number */
  every: number;
  bounds: { min: [number, number, number]; max: [number, number, number] };
}

interface Head {
  kind: string;
  origin: [number, number, number];
  bounds: Geometry['bounds'];
  every?: number;
  sections: Record<string, { offset: number; length: number }>;
}

function sectionsOf(buffer: ArrayBuffer): { head: Head; start: number } {
  const view = new DataView(buffer);
  if (buffer.byteLength < 12 || view.getUint32(0, true) !== 0x52424d45 || view.getUint32(4, true) !== 1) throw new Error('not an Emberstone blob of version 1');
  const length = view.getUint32(8, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 12, length))) as Head;
  return { head, start: 12 + length };
}

export function readGeometry(buffer: ArrayBuffer): Geometry {
  const { head, start } = sectionsOf(buffer);
  const at = (name: string) => head.sections[name];
  // Every section starts at a multiple of eight bytes, so that typed arrays can lie straight over it.
  const floats = at('positions');
  const faces = at('faces');
  const adjacency = at('adjacency');
  const bytes = (name: string) => {
    const s = at(name);
    return s ? new Uint8Array(buffer, start + s.offset, s.length) : null;
  };
  if (!floats) throw new Error('the blob has no positions');
  return {
    kind: head.kind === 'mesh' ? 'mesh' : 'cloud',
    origin: head.origin,
    bounds: head.bounds,
    positions: new Float32Array(buffer, start + floats.offset, floats.length / 4),
    faces: faces ? new Uint32Array(buffer, start + faces.offset, faces.length / 4) : null,
    adjacency: adjacency ? new Uint32Array(buffer, start + adjacency.offset, adjacency.length / 4) : null,
    support: bytes('support'),
    spread: at('spread') ? new Uint16Array(buffer, start + at('spread')!.offset, at('spread')!.length / 2) : null,
    weight: at('weight') ? new Uint16Array(buffer, start + at('weight')!.offset, at('weight')!.length / 2) : null,
    faceOrigin: bytes('faceOrigin'),
    quads: at('quads') ? new Uint32Array(buffer, start + at('quads')!.offset, at('quads')!.length / 4) : null,
    confidence: at('confidence') ? new Float32Array(buffer, start + at('confidence')!.offset, at('confidence')!.length / 4) : null,
    every: head.every ?? 1,
  };
}

export function readMask(buffer: ArrayBuffer): Uint8Array {
  const { head, start } = sectionsOf(buffer);
  const s = head.sections.mask;
  if (!s) throw new Error('the blob holds no mask');
  return new Uint8Array(buffer, start + s.offset, s.length);
}
