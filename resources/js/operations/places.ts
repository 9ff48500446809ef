import type { Hit } from '../tools/events';

export const placesOf = (picks: readonly Hit[]): Hit['pointMm'][] => picks.map((p) => p.pointMm);

/** Exactly so many places, each asked for in words. */
export const lackingPlaces = (picked: number, asked: readonly string[], word: string): string | null =>
  picked === asked.length ? null : picked > asked.length ? `${word} places are enough; press Backspace to take the last one back.` : (asked[picked] ?? null);

export const PASSES = 'Bring in a second pass.';
