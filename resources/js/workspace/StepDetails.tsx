import { Crosshair, FileJson, Undo2, X } from 'lucide-react';
import { useState } from 'react';
import { inWords, unitSign } from '../features/operations/inWords';
import { shownFactor } from '../features/operations/numbers';
import { figureLines } from '../features/operations/figures';
import { inWordsOn } from '../features/operations/worksOn';
import { pickedBefore } from '../features/operations/pickedBefore';
import { RerunForm } from '../features/operations/RerunForm';
import { moduleOf } from '../operations';
import { type PairLine, RegisterReport } from '../features/register/RegisterReport';
import type { StageName } from '../state/view/store';
import { seconds } from '../ui/format';
import { useUndo } from '../features/operations/undoing';
import { useWorkspace } from '../state/context';
import { hasForm, labelOf } from '../state/stages';
import { StepStates } from './StepStates';

/** What a step did: its parameters, figures before and after, notes. */
export function StepDetails({ stepId }: { stepId: number }) {
  const { data, operations, store, commands } = useWorkspace();
  const undo = useUndo();
  const [changing, setChanging] = useState(false);
  const step = data.steps.find((s) => s.id === stepId);
  const operation = operations.find((o) => o.name === step?.operation);
  const later = data.steps.filter((s) => s.state === 'done' && s.id > stepId).length;
  const close = () => store.setState({ openStep: null });
  const pairs = (step?.figures?.after.pairs ?? null) as PairLine[] | null;
  const fixture = step?.figures?.after.fixture;
  const { Details, drawsAgain } = moduleOf(step?.operation);
  const pickedPairs = (step?.parameters.pairs as unknown[] | undefined) ?? [];
  const pickAgain = () => {
    if (!step || !operation) return;
    const { pairs: _, ...values } = step.parameters;
    const picked = pickedBefore(operation, step.parameters, data.snapshot);
    undo(undefined, () => commands.reopen(operation.name, operation.stage as StageName, values, picked));
  };
  const figures = figureLines(step?.figures ?? { before: {}, after: {} });
  const placeOf = (name: string): number => operation?.parameters.findIndex((p) => p.name === name) ?? -1;
  const names = Object.fromEntries([...data.snapshot.passes, ...data.snapshot.bodies, ...data.snapshot.datums].map((item) => [item.id, item.name]));
  return (
    <section className="min-h-0 flex-1 overflow-y-auto p-3" aria-label="Step details">
      <h2 className="mb-2 flex items-center text-sm font-semibold">
        <span className="flex-1">{labelOf(step?.operation ?? 'import', operations)}</span>
        <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Close details" onClick={close}>
          <X size={14} aria-hidden />
        </button>
      </h2>
      {!step ? (
        <p>This step is not in the ledger any more.</p>
      ) : (
        <div className="grid gap-3">
          <p>
            {step.figures?.headline ?? step.message ?? step.state}
            {step.seconds === null ? '' : ` · ${seconds(step.seconds)}`}
          </p>
          {step.state === 'done' && step.figures ? <StepStates stepId={step.id} /> : null}
          {figures.length === 0 ? null : (
            <section className="grid gap-1" aria-labelledby="figures-of-step">
              <h3 id="figures-of-step" className="font-semibold">
                Measured
              </h3>
              {figures.map(([label, words]) => (
                <p key={label} className="flex" data-figure={label}>
                  <span className="flex-1 opacity-80">{label}</span>
                  <span className="text-right">{words}</span>
                </p>
              ))}
            </section>
          )}
          {figures.length > 0 && (step.on || Object.keys(step.parameters).length > 0) ? <h3 className="-mb-2 font-semibold">Set to</h3> : null}
          {step.on ? (
            <p className="flex" data-on>
              <span className="flex-1 opacity-80">On</span>
              <span className="max-w-44 text-right">{inWordsOn(step.on, data.snapshot)}</span>
            </p>
          ) : null}
          {Object.entries(step.parameters)
            .sort(([a], [b]) => placeOf(a) - placeOf(b))
            .map(([name, value]) => {
              const parameter = operation?.parameters[placeOf(name)];
              return (
                <p key={name} className="flex">
                  <span className="flex-1 opacity-80">{parameter?.label ?? name}</span>
                  <span className="max-w-44 text-right">{typeof value === 'number' && parameter ? `${inWords(value * shownFactor(parameter), names)} ${unitSign(parameter.unit ?? '')}` : inWords(value, names)}</span>
                </p>
              );
            })}
          {step.figures?.notes.map((note) => (
            <p key={note} className="opacity-85">
              {note}
            </p>
          ))}
          {Array.isArray(pairs) && typeof pairs[0] === 'object' ? <RegisterReport step={step} pairs={pairs} /> : null}
          {Details ? <Details step={step} /> : null}
          {fixture ? (
            <a className="btn btn-sm font-normal" href={`data:application/json,${encodeURIComponent(JSON.stringify(fixture, null, 1))}`} download="fixture.json">
              <FileJson size={13} aria-hidden /> Save the fixture as a file
            </a>
          ) : null}
          {step.state === 'done' ? (
            <div className="flex flex-wrap gap-2">
              <button type="button" className="btn btn-sm" disabled={later === 0} title={later === 0 ? 'This is the last step' : undefined} onClick={() => undo(step.id)}>
                <Undo2 size={13} aria-hidden /> {later === 0 ? 'Last step' : `Undo to here (${later} back)`}
              </button>
              {operation && (pickedPairs.length > 0 || drawsAgain) ? (
                <button type="button" className="btn btn-sm" disabled={later > 0} title={later > 0 ? 'Undo to here first: only the last step can be picked again' : 'Undoes this step and opens it again with what was picked and drawn, to correct it'} onClick={pickAgain}>
                  <Crosshair size={13} aria-hidden /> {drawsAgain ?? 'Pick again'}
                </button>
              ) : null}
              {operation && hasForm(operation) ? (
                <button type="button" className="btn btn-sm" aria-expanded={changing} onClick={() => setChanging(!changing)}>
                  Change and run again
                </button>
              ) : null}
            </div>
          ) : null}
          {changing && operation && step.state === 'done' ? <RerunForm step={step} operation={operation} later={later} onDone={close} /> : null}
        </div>
      )}
    </section>
  );
}
