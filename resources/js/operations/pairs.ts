import type { Hit } from '../tools/events';
import type { Values } from './module';

/** Picks by twos: a place on what moves, then the same place on what stays. */
export const pairsOf = (picks: readonly Hit[]) => picks.flatMap((p, k) => (k % 2 === 1 ? [{ from: picks[k - 1]?.pointMm, to: p.pointMm }] : []));

export function lackingPairs(sent: Values, picked: number): string | null {
  if (!sent.moving) return 'Choose the pass that moves.';
  const pairs = Math.floor(picked / 2);
  return pairs < 3 ? `Pick ${3 - pairs} more ${pairs === 2 ? 'pair' : 'pairs'}: a place on what moves, then the same place on what stays.` : null;
}
