import { Pencil, Redo2, RotateCcw, Square, Undo2 } from 'lucide-react';
import { useEffect, useRef } from 'react';
import { api } from '../api/client';
import type { StepItem } from '../api/types';
import { typedOf } from '../features/operations/request';
import { useToldOfUndoing, useUndo } from '../features/operations/undoing';
import { inWordsOn } from '../features/operations/worksOn';
import { timeLeft } from '../features/operations/timeLeft';
import { seconds } from '../ui/format';
import { useView, useWorkspace } from '../state/context';
import type { StageName } from '../state/view/store';
import { pickedBefore } from '../features/operations/pickedBefore';
import { moduleOf } from '../operations';
import { hasForm, labelOf } from '../state/stages';

function Running({ step }: { step: StepItem }) {
  const { projectId, run } = useWorkspace();
  const left = timeLeft(step, Date.now());
  return (
    <>
      <p className="truncate opacity-85">{step.state === 'waiting' ? 'waiting for its turn' : step.stopAsked ? 'stopping…' : `${step.doing ?? 'starting'}${left === null ? '' : ` · ${left}`}`}</p>
      <div className="flex items-center gap-2">
        <progress className="progress progress-primary h-1.5 flex-1" value={step.progress} max={1} aria-label={`Progress of ${step.operation}`} />
        <span>{Math.round(100 * step.progress)} %</span>
        <button type="button" className="btn btn-xs relative z-2" onClick={() => run(() => api.stopStep(projectId, step.id))}>
          <Square size={10} aria-hidden /> Stop
        </button>
      </div>
    </>
  );
}

function StepCard({ step }: { step: StepItem }) {
  const { data, operations, projectId, run, store, commands } = useWorkspace();
  const open = useView((s) => s.openStep === step.id);
  const label = labelOf(step.operation, operations);
  const info = operations.find((o) => o.name === step.operation);
  const active = step.state === 'running' || step.state === 'waiting';
  const broken = step.state === 'failed' || step.state === 'stopped';
  return (
    <li className={`relative w-44 shrink-0 rounded-box border p-2 ${active ? 'border-primary bg-primary/15' : broken ? 'border-error' : open ? 'border-primary' : 'border-neutral bg-base-100'} ${step.state === 'set-aside' ? 'border-dashed' : ''}`} data-step={step.operation} data-state={step.state}>
      <button type="button" className="flex w-full text-left font-semibold after:absolute after:inset-0 after:z-1" onClick={() => store.setState({ openStep: open ? null : step.id })} aria-expanded={open}>
        <span className="flex-1 truncate">{label}</span>
        <span className="max-w-20 truncate font-normal opacity-75" title={step.by ? `Taken by ${step.by}` : undefined}>
          {[step.by?.split(' ')[0], step.state === 'set-aside' ? 'undone' : step.seconds === null ? null : seconds(step.seconds)].filter(Boolean).join(' · ')}
        </span>
      </button>
      {active ? (
        <Running step={step} />
      ) : broken ? (
        <div className="flex items-start gap-1">
          <p className="line-clamp-2 flex-1 leading-tight" title={step.message ?? ''}>
            {step.state === 'stopped' ? 'Stopped.' : step.message}
          </p>
          <span className="relative z-2 grid gap-1">
            <button type="button" className="btn btn-xs" onClick={() => run(() => api.again(projectId, step.id))}>
              <RotateCcw size={11} aria-hidden /> Again
            </button>
            {info && hasForm(info) ? (
              <button type="button" className="btn btn-xs" title="Opens its tool as it was set, with what was picked" onClick={() => commands.reopen(moduleOf(step.operation).within ?? step.operation, info.stage as StageName, typedOf(info, step.parameters), pickedBefore(info, step.parameters, data.snapshot))}>
                <Pencil size={11} aria-hidden /> Change
              </button>
            ) : null}
          </span>
        </div>
      ) : (
        <p className="line-clamp-2 leading-tight opacity-85">
          {step.figures?.headline}
          {step.on ? ` · on ${inWordsOn(step.on, data.snapshot)}` : ''}
        </p>
      )}
    </li>
  );
}

export function LedgerStrip() {
  const { data, projectId, run } = useWorkspace();
  const undo = useUndo();
  useToldOfUndoing();
  const list = useRef<HTMLOListElement>(null);
  const count = data.steps.length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new step comes into sight
  useEffect(() => {
    list.current?.scrollTo({ left: list.current.scrollWidth });
  }, [count]);
  return (
    <section className="row-start-4 flex min-w-0 items-center gap-2 border-t border-neutral bg-base-200 px-2" aria-label="Ledger">
      <div className="grid">
        <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label="Undo the last step (Ctrl+Z)" title={data.canUndo ? 'Undo (Ctrl+Z)' : 'Nothing to undo yet'} disabled={!data.canUndo} onClick={() => undo()}>
          <Undo2 size={16} aria-hidden />
        </button>
        <button type="button" className="btn btn-ghost btn-sm btn-square" aria-label="Redo (Ctrl+Shift+Z)" title={data.canRedo ? 'Redo (Ctrl+Shift+Z)' : 'Nothing to redo'} disabled={!data.canRedo} onClick={() => run(() => api.redo(projectId))}>
          <Redo2 size={16} aria-hidden />
        </button>
      </div>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a scrolling list must be reachable from the keyboard */}
      <ol ref={list} className="flex min-w-0 gap-2 overflow-x-auto py-1" tabIndex={0} aria-label="Steps">
        {data.steps.map((step) => (
          <StepCard key={step.id} step={step} />
        ))}
      </ol>
      {data.steps.length === 0 ? <p className="opacity-75">Every step is listed here and can be undone. The first is bringing in passes.</p> : null}
    </section>
  );
}
