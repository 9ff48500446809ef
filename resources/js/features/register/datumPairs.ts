import type { DatumItem, DatumKind } from '../../api/types';

/** A datum of what moves and the one that it comes to lie on, by id. */
export interface DatumPair {
  from: string;
  to: string;
  flip?: boolean;
}

/** Three set all there is to set. */
export const MOST_PAIRS = 3;

const SORTS: Record<DatumKind, 'plane' | 'axis' | 'point' | 'frame'> = { plane: 'plane', line: 'axis', cylinder: 'axis', cone: 'axis', point: 'point', sphere: 'point', frame: 'frame' };

/** What a datum can be laid on (DatumPairs.php). */
export const canLieOn = (datum: DatumItem): string => SORTS[datum.kind];

/** The datums that move along with a body. */
export const onesOf = (datums: readonly DatumItem[], moving: string | undefined): DatumItem[] => datums.filter((d) => d.bodyId === moving);

/** The datums of others that are of its sort. */
export const onesToLieOn = (datums: readonly DatumItem[], from: DatumItem, moving: string): DatumItem[] => datums.filter((d) => d.bodyId !== moving && canLieOn(d) === canLieOn(from));

/** What is missing before datums can be laid on datums; null when nothing is. */
export function lackingDatumPairs(pairs: readonly DatumPair[] | undefined): string | null {
  if (!pairs || pairs.length === 0) return 'Choose a datum of what moves, and one that it comes to lie on.';
  return pairs.some((pair) => pair.to === '') ? 'Choose what each datum comes to lie on.' : null;
}
