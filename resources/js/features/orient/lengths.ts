import type { Hit } from '../../tools/events';

/** Lengths known from the real part, as the form holds them: the actual lengths of picked ones by their number, and those between datums. */
export interface Lengths {
  picked: (number | undefined)[];
  between: { from: string; to: string; actual?: number }[];
}

export const NO_LENGTHS: Lengths = { picked: [], between: [] };

/** Every length with its ends as the server takes them; two picks each, a last single one left out. */
export const sentLengths = ({ picked, between }: Lengths, picks: readonly Hit[]): { from: unknown; to: unknown; actual?: number }[] => [...picks.flatMap((p, k) => (k % 2 === 1 ? [{ from: picks[k - 1]?.pointMm, to: p.pointMm, actual: picked[k >> 1] }] : [])), ...between];
