import type { OperationInfo, StepItem } from '../../api/types';
import { labelOf } from '../../state/stages';

/** The steps of the ledger that are in force, the latest first, as a list to choose from: "Fuse · 180 k faces". */
export function earlierSteps(steps: readonly StepItem[], operations: readonly OperationInfo[]): { id: string; name: string }[] {
  return steps
    .filter((step) => step.state === 'done')
    .map((step) => ({ id: String(step.id), name: [labelOf(step.operation, operations), step.figures?.headline].filter(Boolean).join(' · ') }))
    .reverse();
}
