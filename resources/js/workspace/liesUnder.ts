import type { BodyItem, StepItem } from '../api/types';
import { moduleOf } from '../operations';

/** The bodies that new ones were laid over by the last step, by what its module says; none where nothing is new. */
export function liesUnder(steps: readonly Pick<StepItem, 'operation' | 'state' | 'on'>[], bodies: readonly Pick<BodyItem, 'id' | 'kind'>[], known: readonly string[]): string[] {
  const last = steps.findLast((step) => step.state === 'done');
  if (!last || !moduleOf(last.operation).laysOver || bodies.every((b) => known.includes(b.id))) return [];
  return bodies.filter((b) => b.kind === 'mesh' && known.includes(b.id) && (!last.on || last.on.includes(b.id))).map((b) => b.id);
}
