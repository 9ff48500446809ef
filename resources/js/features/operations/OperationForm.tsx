import { CircleHelp, Eye, Play } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import { api } from '../../api/client';
import type { Fixture, OperationInfo } from '../../api/types';
import { count, secondsBetween } from '../../ui/format';
import { useView, useWorkspace } from '../../state/context';
import { moduleOf } from '../../operations';
import { datumsOf } from '../deliver/measured';
import { MoveHandles } from '../orient/MoveHandles';
import { handledBy } from '../orient/handled';
import { CropBoxFields } from '../gather/CropBoxFields';
import { SelectionPicks } from '../gather/SelectionPicks';
import { isPicked, lacking, namesFor, parametersToSend } from './request';
import { FixturePicks } from '../register/FixturePicks';
import { GroupPicks } from '../register/GroupPicks';
import { earlierSteps } from './earlierSteps';
import { hasNoUse, isOfUse } from './noUse';
import { OnLine } from './OnLine';
import { hasHelp, OperationHelp } from './OperationHelp';
import { ParameterField } from './ParameterField';
import { isLive, isTriable, sameParameters, toTry } from './trial';
import { TrialResult } from './TrialResult';
import { TypedPick } from './TypedPick';
import { useEstimate } from './useEstimate';
import { useLiveTrial } from './useLiveTrial';
import { useParameters } from './useParameters';
import { worksOn } from './worksOn';

/** The units of measurements that are no lengths. */
const MEASURED_IN: Readonly<Record<string, string>> = { angle: 'deg', area: 'mm²', volume: 'mm³' };

/** One operation's form, drawn from the catalogue: fields, picks, what is missing, what it will cost, and one clear Apply. */
export function OperationForm({ operation }: { operation: OperationInfo }) {
  const { data, projectId, commands, run, store, operations } = useWorkspace();
  const { values: filled, set } = useParameters(operation);
  const measured = String(filled.kind);
  const hasDatums = data.snapshot.datums.length > 0;
  // The same objects as long as the units are the same: a field keeps what is being typed.
  const fields = useMemo(() => operation.parameters.filter((p) => p.picks !== 'measured' || (datumsOf(measured) > 0 && hasDatums)).map((p) => (p.unit === 'measured' ? { ...p, unit: MEASURED_IN[measured] ?? 'mm' } : p.picks === 'measured' ? { ...p, max: datumsOf(measured) } : p)), [operation, measured, hasDatums]);
  const picks = useView((s) => s.picks);
  const selection = useView((s) => s.selection);
  const cropBox = useView((s) => s.cropBox);
  const datumBy = useView((s) => s.datumBy);
  const rims = useView((s) => s.rims);
  const kind = String(filled.kind ?? 'plane');
  const { Fields, fieldsFirst, ...module } = moduleOf(operation.name);
  const name = module.freeName?.(filled, { datumBy, snapshot: data.snapshot });
  const values = name && !filled.name ? { ...filled, name } : filled;
  const locked = data.snapshot.passes.filter((p) => p.locked).map((p) => p.id);
  const busy = data.steps.some((s) => s.state === 'running' || s.state === 'waiting');
  const chosen = useView((s) => s.chosen);
  const hidden = useView((s) => s.hidden);
  // The body that something is done with is not one that it is done to.
  const partner = operation.parameters.find((p) => p.picks === 'mesh')?.name;
  const snapshot = partner ? { ...data.snapshot, bodies: data.snapshot.bodies.filter((b) => b.id !== filled[partner]) } : data.snapshot;
  const works = worksOn(operation, snapshot, chosen, hidden);
  // Some are told by a parameter of their own what to work on.
  const told = operation.parameters.find((p) => p.picks === 'works')?.name;
  const on = told ? null : (works?.on ?? null);
  const onKey = on?.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say which
  const bodies = useMemo(() => (on ? data.snapshot.bodies.filter((b) => on.includes(b.id)) : data.snapshot.bodies), [data.snapshot.bodies, onKey]);
  const parameters = parametersToSend(operation, told && works?.on ? { ...values, [told]: works.on } : values, { picks, selection, locked, cropBox, datumBy, rims, bodies });
  // Hidden things are never changed unasked; what is only looked at, or stays as it is, may be out of sight.
  const isUnseen = works !== null && works.isUnseen && !operation.looksOnly && !module.leavesAlone;
  const lack = isUnseen ? 'What it would change is out of sight: show it in the tray, or say above that it shall be worked on.' : lacking(operation, parameters, { picks, selection, datumBy, rims, data, bodies });
  const estimate = useEstimate(operation, parameters, on, lack === null && operation.stage !== 'orient' && selection.length === 0);
  const names = namesFor(operation, data.snapshot);
  const trial = data.trial?.step.operation === operation.name ? data.trial : null;
  const tried = toTry(operation.name, parameters);
  const isTried = trial?.step.state === 'done' && sameParameters({ parameters: trial.step.parameters, on: trial.step.on }, { parameters: tried, on });
  const isSameAsTried = isTried && sameParameters(tried, parameters);
  const { looksOnly } = operation;
  const attempt = () => {
    store.setState({ showTrial: true });
    run(() => api.tryStep(projectId, operation.name, tried, on));
  };
  // Where a chain stopped at this operation, what is chosen anew takes its place, and the rest of the chain follows.
  const stopped = data.steps.find((s) => (s.state === 'failed' || s.state === 'stopped') && s.operation === operation.name && s.follows > 0);
  const apply = () => {
    if (looksOnly) return attempt();
    // What was tried with the same parameters is there already.
    run(async () => {
      await (stopped ? api.again(projectId, stopped.id, { parameters, on }) : trial && isSameAsTried ? api.keepTrial(projectId, trial.step.id) : api.addStep(projectId, operation.name, parameters, on));
      // What was picked goes when the step is taken, and not where it was refused.
      if (!module.keepsGesture) commands.clearGesture();
      for (const name of module.startsAgain ?? []) set(name, undefined);
    });
  };
  const handled = handledBy(operation.name, values, data.snapshot, works?.ids ?? [], picks[0]?.pointMm ?? null);
  const [helps, setHelps] = useState(false);
  const form = useRef<HTMLFormElement>(null);
  // The list above and below is long: what was just opened comes into sight.
  useEffect(() => {
    form.current?.scrollIntoView({ block: 'start' });
  }, []);
  const own = Fields ? <Fields values={values} set={set} parameters={parameters} bodies={bodies} on={on} /> : null;
  const why = lack ?? estimate?.refusal ?? null;
  const stated = operation.parameters.find((p) => p.picks === 'points' || p.picks === 'pairs' || p.picks === 'lengths')?.picks ?? null;
  const takesPlaces = ['points', 'pairs', 'lengths'].includes((module.presses ? module.presses(datumBy, stated) : stated) ?? '');
  const live = isLive(operation, estimate?.seconds[1], trial !== null);
  useLiveTrial(live && why === null && !isTried, on ? { ...parameters, on } : parameters, attempt);
  return (
    <form
      ref={form}
      // What is wrong is said in words of our own; the browser would hold back a typed shift that the slider beside it does not reach.
      noValidate
      className="my-1 grid grid-cols-[minmax(0,1fr)] gap-2.5 rounded-box border border-neutral bg-base-200 p-3"
      aria-label={operation.label}
      onSubmit={(e) => {
        e.preventDefault();
        if (why === null) apply();
      }}
    >
      <div>
        <h2 className="flex items-center text-sm font-semibold">
          <span className="flex-1">{operation.label}</span>
          {hasHelp(operation) ? (
            <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="When not to use it" aria-expanded={helps} title="What it does in a picture, and when not to use it" onClick={() => setHelps(!helps)}>
              <CircleHelp size={14} aria-hidden />
            </button>
          ) : null}
        </h2>
        <p className="opacity-85">{operation.help}</p>
        {helps ? <OperationHelp operation={operation} /> : null}
      </div>
      {works ? <OnLine on={isUnseen ? works : { ...works, isUnseen: false }} /> : null}
      {fieldsFirst ? own : null}
      {fields
        .filter((p) => !isPicked(p) && p.choices.length !== 1 && !hasNoUse(operation.name, p, { values: { ...values, kind }, picks: picks.length, selected: selection.length, datumBy }))
        .map((p) => (
          <ParameterField
            key={p.name}
            parameter={p}
            value={filled[p.name]}
            placeholder={(p.name === 'name' ? (name ?? p.empty) : p.empty) || undefined}
            names={p.picks === 'revision' ? earlierSteps(data.steps, operations) : p.picks === 'against' || p.picks === 'mesh' || p.picks === 'ground' ? data.snapshot.bodies.filter((b) => b.kind === 'mesh') : names}
            onChange={(v) => set(p.name, v)}
          />
        ))}
      {fieldsFirst ? null : own}
      {operation.parameters.some((p) => p.picks === 'fixture') ? <FixturePicks value={values.fixture as Fixture | undefined} onChange={(fixture) => set('fixture', fixture)} /> : null}
      {operation.parameters.some((p) => p.picks === 'group') ? (
        <GroupPicks among={operation.needs !== 'passes' ? data.snapshot.bodies : data.snapshot.passes.length > 2 ? data.snapshot.passes : []} value={(values.with as string[] | undefined) ?? []} not={[values.moving, values.onto]} onChange={(ids) => set('with', ids.length === 0 ? undefined : ids)} />
      ) : null}
      {operation.parameters.some((p) => p.picks === 'selection' && isOfUse(p, filled)) ? <SelectionPicks /> : null}
      {takesPlaces ? <TypedPick /> : null}
      {operation.parameters.some((p) => p.picks === 'box') ? <CropBoxFields /> : null}
      {handled ? <MoveHandles {...handled} values={values} onSet={set} /> : null}
      {stopped ? <p className="text-warning">{stopped.follows === 1 ? 'The step that waits behind it follows by itself.' : `The ${stopped.follows} steps that wait behind it follow by themselves.`}</p> : null}
      {trial ? <TrialResult trial={trial} isCurrent={isTried} values={values} onSet={set} /> : null}
      <div className="sticky -bottom-2 z-10 -mx-3 -mb-3 grid gap-1 rounded-b-box bg-base-200 p-3 pt-1">
        {isTriable(operation) && !looksOnly ? (
          <button type="button" className="btn btn-sm border-base-content/40 font-normal" disabled={why !== null || isTried} title={isTried ? 'This is what you see' : 'Shows what it would do; nothing is changed'} onClick={attempt}>
            <Eye size={13} aria-hidden /> {isTried ? 'Tried: shown in the view' : 'Try it first'}
          </button>
        ) : null}
        <button
          type="submit"
          data-apply
          // A press that ends typing may change the words on it: were the press on a word that goes, it would be no click.
          className="btn btn-primary btn-sm *:pointer-events-none"
          disabled={why !== null}
          aria-describedby={`why-${operation.name}`}
        >
          <Play size={13} aria-hidden /> {isSameAsTried && !looksOnly ? 'Apply what was tried' : operation.label}
          {estimate && !estimate.refusal && !isTried ? <span className="font-normal">· {secondsBetween(estimate.seconds)}</span> : null}
        </button>
        <p id={`why-${operation.name}`} className={why ? 'text-warning' : 'opacity-80'} aria-live="polite">
          {why ?? (busy ? 'Waits for its turn behind the running step.' : estimate?.faces ? `About ${count(estimate.faces)} ${estimate.faces === 1 ? 'face' : 'faces'}, ${Math.round(estimate.memoryMb)} MB of memory. ${estimate.advice ?? ''}` : '')}
        </p>
      </div>
    </form>
  );
}
