import { X } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { api } from '../../api/client';
import type { Trial } from '../../api/types';
import { count } from '../../ui/format';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../state/context';
import { moduleOf } from '../../operations';
import { type Comparison, ComparisonResult } from '../deliver/ComparisonResult';

/** Less than the panel shows at once beside the buttons, at 800 px. */
const SHORT_PX = 260;

/** What a trial found: on its way, failed, or done with figures, before and after. */
export function TrialResult({ trial, isCurrent, values, onSet }: { trial: Trial; isCurrent: boolean; values: Record<string, unknown>; onSet: (name: string, value: unknown) => void }) {
  const { data, operations, projectId, run, store } = useWorkspace();
  const showTrial = useView((s) => s.showTrial);
  const { step } = trial;
  const running = step.state === 'waiting' || step.state === 'running';
  const box = useRef<HTMLElement>(null);
  // What was found comes out from behind the buttons below it; a long list begins where it is.
  useEffect(() => {
    if (step.state === 'done' && box.current && box.current.offsetHeight < SHORT_PX) box.current.scrollIntoView({ block: 'nearest' });
  }, [step.state]);
  const cut = (trial.passes ?? []).flatMap((p) => {
    const before = data.snapshot.passes.find((q) => q.id === p.id);
    return before && before.kept !== p.kept ? [{ id: p.id, name: before.name, gone: before.kept - p.kept, share: (before.kept - p.kept) / Math.max(1, before.kept) }] : [];
  });
  const { Report, reportsNotes } = moduleOf(step.operation);
  const operation = operations.find((o) => o.name === step.operation);
  const looksOnly = operation?.looksOnly ?? false;
  const what = looksOnly ? 'Report' : 'Trial';
  const comparisons = step.state === 'done' ? (step.figures?.after.comparisons as Comparison[] | undefined) : undefined;
  return (
    <section ref={box} className={`grid scroll-mb-32 grid-cols-[minmax(0,1fr)] gap-1 rounded-field border p-2 ${isCurrent || running ? 'border-primary' : 'border-neutral opacity-80'}`} aria-label="Trial" data-trial={step.state}>
      <p className="flex items-center font-semibold">
        <span className="flex-1">{running ? `${what} on its way: ${step.doing ?? 'waiting for a worker'}` : step.state === 'done' ? `${what}: ${step.figures?.headline ?? ''}` : looksOnly ? `${operation?.label} failed` : 'The trial failed'}</span>
        <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Drop the trial" onClick={() => run(() => api.forgetTrials(projectId))}>
          <X size={13} aria-hidden />
        </button>
      </p>
      {running ? <progress className="progress progress-primary h-1.5" value={step.progress} max={1} aria-label="Progress of the trial" /> : null}
      {step.message ? <p className="text-warning">{step.message}</p> : null}
      {(reportsNotes ? [] : (step.figures?.notes ?? [])).slice(0, 8).map((note) => (
        <p key={note} className="opacity-90">
          {note}
        </p>
      ))}
      {comparisons ? <ComparisonResult comparisons={comparisons} map={step.figures?.maps?.[0]?.label ?? null} /> : null}
      {Report && step.state === 'done' ? <Report trial={trial} isCurrent={isCurrent} values={values} set={onSet} /> : null}
      {cut.map((c) => (
        <p key={c.id} className="flex">
          <span className="flex-1 truncate">{c.name}</span> − {count(c.gone)} ({(100 * c.share).toFixed(c.share < 0.1 ? 1 : 0)} %)
        </p>
      ))}
      {step.state === 'done' && !looksOnly ? (
        <Choice
          label="What the view shows"
          options={[
            { value: false, label: 'Before' },
            { value: true, label: 'After' },
          ]}
          value={showTrial}
          onChoose={(after) => store.setState({ showTrial: after })}
        />
      ) : null}
      {step.state === 'done' && !isCurrent && !looksOnly ? <p className="text-warning">The form has changed since; this is of the old values.</p> : null}
    </section>
  );
}
