/** A datum made of others, as the server takes it. */
export interface Construction {
  how: string;
  of: string[];
  by?: number;
  /** mm */
  shift?: [number, number, number];
}

/** What a fitted datum keeps to, as the server takes it (FitConstraint.php). */
export interface Hold {
  how?: 'parallel' | 'square' | 'angle' | undefined;
  to?: string | undefined;
  angle?: number | undefined;
  through?: string | undefined;
  diameter?: number | undefined;
}

/** A datum in numbers, with what other kinds have too: it stays when the kind is changed. */
export interface Typed {
  origin: [number, number, number];
  direction: [number, number, number];
  diameter?: number | undefined;
  halfAngle?: number | undefined;
}

export const NO_TYPED: Typed = { origin: [0, 0, 0], direction: [0, 0, 1] };

/** A frame is kept as it is set, or as a body had it; nothing is picked for it. */
export const frameToKeep = ({ name, kind, frameOf }: Record<string, unknown>) => ({ name, kind, ...(frameOf ? { frameOf } : {}) });

/** What a kind of datum has of the typed numbers. */
export function typedToSend(kind: string, { origin, direction, diameter, halfAngle }: Typed): Partial<Typed> {
  return {
    origin,
    ...(kind === 'point' || kind === 'sphere' ? {} : { direction }),
    ...(kind === 'cylinder' || kind === 'sphere' || kind === 'cone' ? { diameter } : {}),
    ...(kind === 'cone' ? { halfAngle } : {}),
  };
}

export function lackingNumbers(typed: Partial<Typed>): string | null {
  if (typed.direction?.every((v) => v === 0)) return 'Type a direction: not all three can be 0.';
  if ('diameter' in typed && !typed.diameter) return 'Type the diameter.';
  return 'halfAngle' in typed && !typed.halfAngle ? 'Type the angle.' : null;
}

/** Whether a datum has another way round: what others make of it is not known before. */
export const hasWayRound = (kind: string, datumBy: string): boolean => datumBy === 'datums' || kind === 'plane' || kind === 'line' || kind === 'cylinder';

/** How many picks a kind is made of: the fewest places that fix it; a round area spreads from one click. */
const PLACES: Record<string, number> = { plane: 3, line: 2, sphere: 4 };

export function lackingPicks(kind: string, picked: number): string | null {
  const places = PLACES[kind];
  if (picked === 0) return kind === 'line' ? 'Click two places that the line goes through.' : 'Click a place on the part.';
  if (kind === 'line') return picked < 2 ? 'Pick 1 more point.' : null;
  if (picked === 1) return null;
  if (kind === 'point') return 'A point is one place; press Backspace to take the last one back.';
  if (places === undefined) return null;
  const more = places - picked;
  return more > 0 ? `Pick ${more} more ${more === 1 ? 'point' : 'points'}, or press Backspace to spread from one click.` : null;
}

/** Ways of making a datum from a single other. */
const OF_ONE: ReadonlySet<string> = new Set(['offset', 'axis', 'centre', 'copy']);

export function lackingParents(construct: Construction | undefined): string | null {
  if (!construct?.how) return 'Choose how it is made.';
  if (construct.of.length === 0) return 'Choose the datums it is made of.';
  if (construct.of.length === 1 && !OF_ONE.has(construct.how)) return 'Choose one more datum at least.';
  if (construct.how === 'copy' && construct.of.length > 1) return 'A copy is made of one datum.';
  return construct.how === 'offset' && !construct.by ? 'Type how far it is from the plane.' : null;
}

/** A name that no datum has yet: its kind and a number. */
export function freeName(kind: string, datums: readonly { id: string; name: string }[]): string {
  const word = kind.charAt(0).toUpperCase() + kind.slice(1);
  for (let n = 1; ; n++) {
    if (datums.every((d) => d.name !== `${word} ${n}` && d.id !== `${word} ${n}`)) return `${word} ${n}`;
  }
}
