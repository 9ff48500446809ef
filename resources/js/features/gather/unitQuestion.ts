import type { StepItem } from '../../api/types';
import { moduleOf } from '../../operations';
import { lengthInWords } from '../../ui/format';
import { UNITS } from '../../ui/typed';

export interface UnitQuestion {
  items: string[];
  unit: string;
  /** every unit there is, with the size the part would then have */
  choices: { unit: string; size: string }[];
}

interface OddSize {
  id: string;
  unit: string;
  was: string;
  sizeMm: number;
}

export interface SizeQuestion {
  /** one a unit that they might really be in */
  groups: { unit: string; was: string; items: string[]; size: string }[];
}

/** The last import that left a question of this kind, until somebody has set a unit. */
function unanswered<T>(steps: readonly StepItem[], question: (after: Record<string, unknown>) => T | null | undefined): T | null {
  const done = steps.filter((s) => s.state === 'done');
  for (let k = done.length - 1; k >= 0; k--) {
    if (moduleOf(done[k]?.operation).answersUnit) return null;
    const found = question(done[k]?.figures?.after ?? {});
    if (found) return found;
  }
  return null;
}

/** The last import whose files did not say their unit, until somebody has answered. */
export function unitQuestion(steps: readonly StepItem[]): UnitQuestion | null {
  const guessed = unanswered(steps, (after) => after.guessed as { items: string[]; unit: string; lengthMm: number } | null);
  if (!guessed) return null;
  const raw = guessed.lengthMm / (UNITS[guessed.unit] ?? 1);
  return { items: guessed.items, unit: guessed.unit, choices: Object.entries(UNITS).map(([unit, mm]) => ({ unit, size: lengthInWords(raw * mm) })) };
}

/** Passes of the last import whose size speaks for another unit than the others'. */
export function sizeQuestion(steps: readonly StepItem[]): SizeQuestion | null {
  const odd = unanswered(steps, (after) => ((after.oddSizes as OddSize[] | undefined)?.length ? (after.oddSizes as OddSize[]) : null));
  if (!odd) return null;
  const groups = new Map<string, SizeQuestion['groups'][number]>();
  for (const { id, unit, was, sizeMm } of odd) {
    const group = groups.get(`${was} ${unit}`) ?? { unit, was, items: [], size: lengthInWords(sizeMm) };
    group.items.push(id);
    groups.set(`${was} ${unit}`, group);
  }
  return { groups: [...groups.values()] };
}
