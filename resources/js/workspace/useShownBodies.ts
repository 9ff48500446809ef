import { useView, useWorkspace } from '../state/context';

/** The bodies that the view shows: as a step found or left them while its details are open, else those of the trial that is shown, else those that are. */
export function useShownBodies() {
  const { data } = useWorkspace();
  const state = useView((s) => s.state);
  const showTrial = useView((s) => s.showTrial);
  const tried = data.trial?.step.state === 'done' && showTrial ? data.trial.bodies : null;
  return state?.bodies ?? tried ?? data.snapshot.bodies;
}
