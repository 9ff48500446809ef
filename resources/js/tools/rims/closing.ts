import type { RimPart, RimPlace, RimStretch, RimStrip } from './rims';

/** What shall become of a rim: closed, open for good, or open for now. */
export type Wish = 'close' | 'open' | 'later';

/** What shall become of open rims, as far as it was said; each change knows what was said before it. */
export interface Closing {
  /** by the key of the rim */
  wishes: Readonly<Record<string, Wish>>;
  parts: readonly RimPart[];
  strips: readonly RimStrip[];
  before: Closing | null;
  /** made by typing how wide rims are closed: what is typed on is the same change */
  isTyped?: boolean;
}

export const NOTHING_SAID: Closing = { wishes: {}, parts: [], strips: [], before: null };

const said = (closing: Closing, change: Partial<Closing>): Closing => ({ ...closing, ...change, before: closing, isTyped: false });

/** The last change taken back. */
export const takenBack = (closing: Closing): Closing => closing.before ?? closing;

export const withWishes = (closing: Closing, wishes: Record<string, Wish>): Closing => said(closing, { wishes: { ...closing.wishes, ...wishes } });

/** As typed: 1, then 12 is one change, not two. */
export const withTyped = (closing: Closing, wishes: Record<string, Wish>): Closing => ({ ...withWishes(closing.isTyped && closing.before ? closing.before : closing, wishes), isTyped: true });

/** A rim that is closed in part is not closed whole as well. */
const notWhole = (rims: readonly string[]): Record<string, Wish> => Object.fromEntries(rims.map((rim) => [rim, 'later' as const]));

export const withPart = (closing: Closing, part: RimPart): Closing => said(closing, { parts: [...closing.parts, part], wishes: { ...closing.wishes, ...notWhole([part.from.rim]) } });

export const withStrip = (closing: Closing, strip: RimStrip): Closing => said(closing, { strips: [...closing.strips, strip], wishes: { ...closing.wishes, ...notWhole(strip.map((s) => s.from.rim)) } });

export const without = (closing: Closing, dropped: RimPart | RimStrip): Closing => said(closing, { parts: closing.parts.filter((part) => part !== dropped), strips: closing.strips.filter((strip) => strip !== dropped) });

/** The gesture on rims as it stands. */
export interface RimGesture {
  closing: Closing;
  /** the place of a rim under the pointer */
  at: RimPlace | null;
  /** a stretch that waits for its side, or for the stretch that a strip joins it with */
  pending: RimStretch | null;
  /** a stretch that is being drawn, and does not wait yet */
  drawn: RimStretch | null;
  /** a corner that says which side is meant of the stretch that is drawn, else of the one that waits */
  side: RimPlace | null;
  /** a click that met no rim, CSS pixels of the view */
  missed: { x: number; y: number } | null;
}

export const NO_RIM_GESTURE: RimGesture = { closing: NOTHING_SAID, at: null, pending: null, drawn: null, side: null, missed: null };
