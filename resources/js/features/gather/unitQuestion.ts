import type { StepItem } from '../../api/types';
import { lengthInWords, UNITS } from '../../ui/format';

export interface UnitQuestion {
  items: string[];
  unit: string;
  /** every unit there is, with the size the part would then have */
  choices: { unit: string; size: string }[];
}

/** The last import whose files did not say their unit, until somebody has answered. */
export function unitQuestion(steps: readonly StepItem[]): UnitQuestion | null {
  const done = steps.filter((s) => s.state === 'done');
  for (let k = done.length - 1; k >= 0; k--) {
    if (done[k]?.operation === 'set-unit') return null;
    const guessed = done[k]?.figures?.after.guessed as { items: string[]; unit: string; lengthMm: number } | null | undefined;
    if (guessed) {
      const raw = guessed.lengthMm / (UNITS[guessed.unit] ?? 1);
      return { items: guessed.items, unit: guessed.unit, choices: Object.entries(UNITS).map(([unit, mm]) => ({ unit, size: lengthInWords(raw * mm) })) };
    }
  }
  return null;
}
