import { useCallback, useEffect, useRef } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { StepItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { labelOf } from '../../state/stages';

/** Steps that this window has undone itself: nobody need tell it. */
const undoneHere = new Set<number>();

/** The steps in force after one, the last of all when no step is named. */
export function undoneBy(steps: readonly StepItem[], to?: number): StepItem[] {
  const line = steps.filter((s) => s.state === 'done');
  return to === undefined ? line.slice(-1) : line.slice(line.findIndex((s) => s.id === to) + 1);
}

/** What somebody else has undone of ours, between what the steps were and what they are. */
export function undoneOfOurs(before: readonly StepItem[], now: readonly StepItem[]): StepItem[] {
  const was = new Map(before.map((s) => [s.id, s.state]));
  return now.filter((s) => s.isMine && s.state === 'set-aside' && was.get(s.id) === 'done' && !undoneHere.has(s.id));
}

/** Undoes the last step, or all after one; asks first where one of them is that of somebody else here. What comes after it (`then`) waits for that. */
export function useUndo(): (to?: number, then?: () => void) => void {
  const { data, projectId, operations, run } = useWorkspace();
  return useCallback(
    (to, then) => {
      const steps = undoneBy(data.steps, to);
      const undo = () => {
        for (const { id } of steps) undoneHere.add(id);
        run(() =>
          api.undo(projectId, to).then(then, (problem) => {
            // They stand as they did: when somebody else undoes them, that is told.
            for (const { id } of steps) undoneHere.delete(id);
            throw problem;
          }),
        );
      };
      const theirs = steps.find((s) => s.isTheirs);
      if (!theirs) return undo();
      toast(`${labelOf(theirs.operation, operations)} is a step of ${theirs.by ?? 'somebody else'}.`, { description: 'They are told when it is undone, and can take it back.', action: { label: 'Undo it', onClick: undo }, duration: 20_000 });
    },
    [data.steps, projectId, operations, run],
  );
}

/** Steps of ours that this window sets aside by running them again. */
export const setAsideHere = (steps: readonly StepItem[], from: number): void => {
  undoneHere.add(from);
  for (const { id } of undoneBy(steps, from)) undoneHere.add(id);
};

/** Tells whoever sits here when somebody else has undone a step of theirs. */
export function useToldOfUndoing(): void {
  const { data, projectId, operations, run } = useWorkspace();
  const before = useRef(data.steps);
  useEffect(() => {
    const undone = undoneOfOurs(before.current, data.steps);
    before.current = data.steps;
    const [first] = undone;
    if (!first) return;
    const label = labelOf(first.operation, operations);
    toast(undone.length === 1 ? `Your step ${label} was undone.` : `${undone.length} of your steps were undone, ${label} first.`, { action: { label: 'Redo', onClick: () => run(() => api.redo(projectId)) }, duration: 20_000 });
  }, [data.steps, projectId, operations, run]);
}
