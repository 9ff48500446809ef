import type { ShadeMap } from '../api/types';
import { useView, useWorkspace } from '../state/context';

/** The maps that passes can be coloured by: those of the step that is looked at, else of the trial that is shown. */
export function useMaps(): ShadeMap[] {
  const { data } = useWorkspace();
  const showTrial = useView((s) => s.showTrial);
  const openStep = useView((s) => s.openStep);
  const step = openStep === null ? (showTrial ? data.trial?.step : undefined) : data.steps.find((s) => s.id === openStep);
  return step?.figures?.maps ?? [];
}
