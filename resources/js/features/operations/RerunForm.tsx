import { Play } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import type { OperationInfo, StepItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { moduleOf } from '../../operations';
import { ParameterField } from './ParameterField';
import { isPicked, namesFor } from './request';
import { setAsideHere } from './undoing';

/** A step's parameters to change: it runs again from its place, and what came after it follows. */
export function RerunForm({ step, operation, later, onDone }: { step: StepItem; operation: OperationInfo; later: number; onDone: () => void }) {
  const { data, projectId, run } = useWorkspace();
  const [changed, setChanged] = useState<Record<string, unknown>>({});
  const busy = data.steps.some((s) => s.state === 'running' || s.state === 'waiting');
  const names = namesFor(operation, data.snapshot);
  const { RerunFields, hides } = moduleOf(operation.name);
  // A field of its own stands in the place of those that the form hides.
  const isHidden = (name: string) => RerunFields !== undefined && hides?.(name, { values: step.parameters, picks: 0, selected: 0, datumBy: '' }) === true;
  const fields = operation.parameters.filter((p) => !isPicked(p) && p.choices.length !== 1 && !isHidden(p.name));
  const value = (name: string, fallback: unknown) => (name in changed ? changed[name] : (step.parameters[name] ?? fallback));
  const submit = () => {
    const parameters = Object.fromEntries(Object.entries({ ...step.parameters, ...changed }).filter(([, v]) => v !== undefined && v !== null && v !== ''));
    setAsideHere(data.steps, step.id);
    run(() => api.rerun(projectId, step.id, parameters).then(onDone));
  };
  return (
    <form
      className="grid gap-2.5 rounded-box border border-neutral bg-base-200 p-3"
      aria-label={`Change ${operation.label}`}
      onSubmit={(e) => {
        e.preventDefault();
        if (!busy) submit();
      }}
    >
      {fields.map((p) => (
        <ParameterField key={p.name} parameter={p} value={value(p.name, p.default)} names={names} onChange={(v) => setChanged((old) => ({ ...old, [p.name]: v }))} />
      ))}
      {RerunFields ? <RerunFields values={{ ...step.parameters, ...changed }} set={(name, v) => setChanged((old) => ({ ...old, [name]: v }))} /> : null}
      {fields.length === 0 && !RerunFields ? <p>This step has nothing to change; it runs again as it was.</p> : null}
      <button type="submit" className="btn btn-primary btn-sm" disabled={busy}>
        <Play size={13} aria-hidden /> Run again from here
      </button>
      <p className={busy ? 'text-warning' : 'opacity-85'}>{busy ? 'A step is running; wait for it or stop it first.' : later === 0 ? 'The result so far is set aside.' : `The ${later === 1 ? 'step' : `${later} steps`} after it ${later === 1 ? 'follows' : 'follow'} by themselves.`}</p>
    </form>
  );
}
