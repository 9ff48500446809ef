type Place = [number, number, number];
export type Stroke = Place[];

/** Sides of cells run along the one, and lie on the other: the parameters of the same names. */
export type StrokeKind = 'flow' | 'edges';

export interface Strokes {
  flow: Stroke[];
  edges: Stroke[];
}

interface StrokeValues {
  flow?: unknown;
  edges?: unknown;
  strokeAs?: unknown;
}

const listOf = (value: unknown): Stroke[] => (Array.isArray(value) ? (value as Stroke[]) : []);

export const kindOf = ({ strokeAs }: StrokeValues): StrokeKind => (strokeAs === 'edges' ? 'edges' : 'flow');

/** The strokes that are kept, and the one that is being drawn once it has two places. */
export function strokesOf(values: StrokeValues, drawn: readonly Place[]): Strokes {
  const kept = { flow: listOf(values.flow), edges: listOf(values.edges) };
  if (drawn.length < 2) return kept;
  const kind = kindOf(values);
  return { ...kept, [kind]: [...kept[kind], [...drawn]] };
}

/** The stroke on the other side of a plane. */
export function mirrored(stroke: Stroke, plane: { origin: Place; normal: Place }): Stroke {
  const length = Math.hypot(...plane.normal);
  return stroke.map((at) => {
    const away = at.reduce((sum, v, c) => sum + ((v - plane.origin[c]!) * plane.normal[c]!) / length, 0);
    return at.map((v, c) => v - (2 * away * plane.normal[c]!) / length) as Place;
  });
}

/** How long a stroke is from place to place, mm. */
export const lengthOf = (stroke: Stroke): number => stroke.slice(1).reduce((sum, at, k) => sum + Math.hypot(...at.map((v, c) => v - (stroke[k]?.[c] ?? 0))), 0);
