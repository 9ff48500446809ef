/** A family of faults: what it is called, and the sign it has in lists and in the view. */
export const FAMILIES: Record<string, { label: string; glyph: string; colour: string; why: string }> = {
  nonManifoldEdges: { label: 'Non-manifold edges', glyph: 'Y', colour: '#e0685c', why: 'More than two faces meet at an edge: no inside there' },
  nonManifoldVertices: { label: 'Non-manifold vertices', glyph: 'V', colour: '#e0685c', why: 'Two sheets touch in a single point' },
  openEdges: { label: 'Open rims', glyph: 'O', colour: '#3fb8a6', why: 'The surface ends there: not watertight' },
  inconsistentEdges: { label: 'Faces turned round', glyph: 'F', colour: '#c58be0', why: 'Neighbours look to opposite sides' },
  selfIntersections: { label: 'Crossing faces', glyph: 'X', colour: '#f0a43c', why: 'The surface passes through itself' },
  duplicateFaces: { label: 'Duplicate faces', glyph: 'D', colour: '#8fb0e8', why: 'Two faces on the same corners' },
  degenerateFaces: { label: 'Faces without area', glyph: 'A', colour: '#8fb0e8', why: 'They have no direction, and confuse later steps' },
  spikes: { label: 'Spikes', glyph: 'S', colour: '#f2d15a', why: 'A vertex stands out of all that is around it' },
  necks: { label: 'Necks', glyph: 'N', colour: '#f2d15a', why: 'A bump hangs on a loop of three edges' },
  tunnels: { label: 'Tunnels', glyph: 'T', colour: '#f2d15a', why: 'A passage, or the gap under a bridge, hardly wider than a face; it may be meant' },
  pinHoles: { label: 'Pin holes', glyph: 'P', colour: '#3fb8a6', why: 'Rims of a few edges' },
  doubleSkins: { label: 'Double skins', glyph: 'W', colour: '#8fb0e8', why: 'Two layers of one wall: repair takes the one beneath away and closes the seam; or resolve them among the passes and fuse again' },
  pieces: { label: 'Loose pieces', glyph: 'L', colour: '#b7c4a0', why: 'Not joined to the largest piece' },
};

export interface FaultPlace {
  centre: [number, number, number];
  sizeMm: number;
  count: number;
}

export interface FaultFamily {
  family: string;
  count: number;
  /** places that are not listed */
  more: number;
  places: FaultPlace[];
}

/** The family that the repairing step knows these by. */
export const repairedAs = (family: string): string => (family === 'pinHoles' ? 'openEdges' : family);

/** The next place of a list, round and round; from nowhere the first or the last. */
export const turned = (at: number | null, by: 1 | -1, many: number): number => (at === null ? (by === 1 ? 0 : many - 1) : (at + by + many) % many);

/** Marks for the view, bounded in number: every family shows its first places. */
export function faultMarks(families: readonly FaultFamily[], most = 200): { point: [number, number, number]; text: string; colour: string; size: number }[] {
  const each = Math.max(1, Math.floor(most / Math.max(1, families.length)));
  return families.flatMap((f) => {
    const sign = FAMILIES[f.family];
    return sign ? f.places.slice(0, each).map((place) => ({ point: place.centre, text: sign.glyph, colour: sign.colour, size: 0.024 })) : [];
  });
}
