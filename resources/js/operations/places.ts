import type { Hit } from '../tools/events';

export const placesOf = (picks: readonly Hit[]): Hit['pointMm'][] => picks.map((p) => p.pointMm);

/** What to click next, for an operation that takes one place for each sentence; null when it has them all. */
export const lackingPlaces = (picked: number, asked: readonly string[], word: string): string | null => (picked === asked.length ? null : picked > asked.length ? `${word} places are enough; press Backspace to take the last one back.` : (asked[picked] ?? null));

export const PASSES = 'Bring in a second pass.';
