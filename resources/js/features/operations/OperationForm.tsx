import { Eye, Play } from 'lucide-react';
import { useCallback, useEffect, useMemo, useRef } from 'react';
import { api } from '../../api/client';
import type { Fixture, OperationInfo } from '../../api/types';
import { seconds } from '../../ui/format';
import { useView, useWorkspace } from '../../state/context';
import { datumsOf } from '../deliver/measured';
import { DatumPicks } from '../orient/DatumPicks';
import { FramePicks } from '../orient/FramePicks';
import { LengthPicks } from '../orient/LengthPicks';
import type { Lengths } from '../orient/lengths';
import { MoveHandles } from '../orient/MoveHandles';
import { handledBy } from '../orient/handled';
import { SixLocks } from '../orient/SixLocks';
import { CropBoxFields } from '../gather/CropBoxFields';
import { SupportPreview } from '../fuse/SupportPreview';
import { HoleList, RimsInView } from '../mend/HoleList';
import type { Wish } from '../mend/holes';
import { SelectionPicks } from '../gather/SelectionPicks';
import { type Construction, freeName, type Hold, isPicked, lacking, namesFor, parametersToSend, type Typed } from './request';
import { DatumPairPicks } from '../register/DatumPairPicks';
import type { DatumPair } from '../register/datumPairs';
import { FixturePicks } from '../register/FixturePicks';
import { GroupPicks } from '../register/GroupPicks';
import { PairPicks } from '../register/PairPicks';
import { TargetPicks } from '../register/TargetPicks';
import { hasNoUse } from './noUse';
import { OnLine } from './OnLine';
import { ParameterField } from './ParameterField';
import { isLive, isTriable, sameParameters, toTry } from './trial';
import { TrialResult } from './TrialResult';
import { useEstimate } from './useEstimate';
import { useLiveTrial } from './useLiveTrial';
import { useParameters } from './useParameters';
import { worksOn } from './worksOn';

const NONE: string[] = [];

/** The units of measurements that are no lengths. */
const MEASURED_IN: Readonly<Record<string, string>> = { angle: 'deg', area: 'mm²', volume: 'mm³' };

const NO_WISHES: Record<string, Wish> = {};

/** One operation's form, drawn from the catalogue: fields, picks, what is missing, what it will cost, and one clear Apply. */
export function OperationForm({ operation }: { operation: OperationInfo }) {
  const { data, projectId, commands, run, store } = useWorkspace();
  const { values: filled, set } = useParameters(operation);
  const measured = String(filled.kind);
  // The same objects as long as the units are the same: a field keeps what is being typed.
  const fields = useMemo(
    () =>
      operation.parameters
        .filter((p) => p.picks !== 'measured' || datumsOf(measured) > 0)
        .map((p) => (p.unit === 'measured' ? { ...p, unit: MEASURED_IN[measured] ?? 'mm' } : p.picks === 'measured' ? { ...p, max: datumsOf(measured) } : p)),
    [operation, measured],
  );
  const picks = useView((s) => s.picks);
  const selection = useView((s) => s.selection);
  const cropBox = useView((s) => s.cropBox);
  const datumBy = useView((s) => s.datumBy);
  const kind = String(filled.kind ?? 'plane');
  const name = operation.name === 'add-datum' ? freeName(datumBy === 'datums' ? 'datum' : kind, data.snapshot.datums) : undefined;
  const values = name && !filled.name ? { ...filled, name } : filled;
  const preview = useView((s) => s.datumPreview);
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
  const parameters = parametersToSend(operation, told && works?.on ? { ...values, [told]: works.on } : values, { picks, selection, locked, cropBox, datumBy, bodies });
  const lack = lacking(operation, parameters, { picks, selection, datumBy, data, bodies });
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
  const apply = () => {
    if (looksOnly) return attempt();
    // What was tried with the same parameters is there already.
    run(() => (trial && isSameAsTried ? api.keepTrial(projectId, trial.step.id) : api.addStep(projectId, operation.name, parameters, on)));
    // The crop box stays: what was copied from it may now be deleted around it.
    if (operation.name !== 'crop') commands.clearGesture();
    // What has moved stands where it was shown: from there the next movement begins.
    if (handled) for (const name of ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ', 'x', 'y', 'z', 'angle']) set(name, undefined);
    if (operation.name === 'add-datum') {
      set('name', undefined);
      set('construct', undefined);
      set('hold', undefined);
      set('typed', undefined);
      set('nth', undefined);
      set('frameOf', undefined);
    }
  };
  const handled = handledBy(operation.name, values, data.snapshot, works?.ids ?? [], picks[0]?.pointMm ?? null);
  const setWishes = useCallback((wishes: Record<string, Wish>) => set('wishes', wishes), [set]);
  const form = useRef<HTMLFormElement>(null);
  // The list above and below is long: what was just opened comes into sight.
  useEffect(() => {
    form.current?.scrollIntoView({ block: 'start' });
  }, []);
  const why = lack ?? estimate?.refusal ?? null;
  const live = isLive(operation, estimate?.seconds);
  useLiveTrial(live && why === null && !isTried, on ? { ...parameters, on } : parameters, attempt);
  return (
    <form
      ref={form}
      className="my-1 grid grid-cols-[minmax(0,1fr)] gap-2.5 rounded-box border border-neutral bg-base-200 p-3"
      aria-label={operation.label}
      onSubmit={(e) => {
        e.preventDefault();
        if (why === null) apply();
      }}
    >
      <div>
        <h2 className="text-sm font-semibold">{operation.label}</h2>
        <p className="opacity-85">{operation.help}</p>
      </div>
      {works ? <OnLine on={works} /> : null}
      {fields
        .filter((p) => !isPicked(p) && p.choices.length !== 1 && !hasNoUse(operation.name, p, { values: { ...values, kind }, picks: picks.length, datumBy }))
        .map((p) => (
          <ParameterField key={p.name} parameter={p} value={filled[p.name]} placeholder={(p.name === 'name' ? (name ?? p.empty) : p.empty) || undefined} names={p.picks === 'against' || p.picks === 'mesh' ? data.snapshot.bodies.filter((b) => b.kind === 'mesh') : names} onChange={(v) => set(p.name, v)} />
        ))}
      {operation.name === 'add-datum' ? <DatumPicks kind={kind} angle={Number(values.angle)} construct={values.construct as Construction | undefined} hold={values.hold as Hold | undefined} typed={values.typed as Typed | undefined} nth={Number(values.nth ?? 1)} frameOf={values.frameOf as string | undefined} onSet={set} /> : null}
      {operation.name === 'pair-points' || (operation.name === 'place' && values.start === 'pairs') ? <PairPicks moving={values.moving as string | undefined} along={(values.with as string[] | undefined) ?? NONE} /> : null}
      {operation.name === 'place' && values.start === 'datums' ? <DatumPairPicks value={(values.datums as DatumPair[] | undefined) ?? []} moving={values.moving as string | undefined} onChange={(pairs) => set('datums', pairs.length === 0 ? undefined : pairs)} /> : null}
      {operation.name === 'fill-holes' ? <HoleList bodies={bodies} wishes={(values.wishes as Record<string, Wish> | undefined) ?? NO_WISHES} onWish={setWishes} /> : null}
      {operation.name === 'fill-part' || operation.name === 'lay-strip' ? <RimsInView /> : null}
      {operation.name === 'scale' ? <LengthPicks value={values.lengths as Lengths | undefined} onChange={(lengths) => set('lengths', lengths)} /> : null}
      {operation.name === 'solve-fixture' ? <TargetPicks value={Array.isArray(values.balls) && Array.isArray(values.planes) ? { balls: values.balls as number[][], planes: values.planes as number[][] } : null} onSet={set} /> : null}
      {operation.parameters.some((p) => p.picks === 'fixture') ? <FixturePicks value={values.fixture as Fixture | undefined} onChange={(fixture) => set('fixture', fixture)} /> : null}
      {operation.parameters.some((p) => p.picks === 'group') ? <GroupPicks among={operation.name !== 'pair-points' ? data.snapshot.bodies : data.snapshot.passes.length > 2 ? data.snapshot.passes : []} value={(values.with as string[] | undefined) ?? []} not={[values.moving, values.onto]} onChange={(ids) => set('with', ids.length === 0 ? undefined : ids)} /> : null}
      {operation.parameters.some((p) => p.picks === 'selection') ? <SelectionPicks /> : null}
      {operation.parameters.some((p) => p.picks === 'box') ? <CropBoxFields /> : null}
      {operation.name === 'register' && locked.length > 0 ? <p>{locked.length === 1 ? '1 pass is' : `${locked.length} passes are`} locked in the tray and will not move.</p> : null}
      {handled ? <MoveHandles {...handled} values={values} onSet={set} /> : null}
      {operation.name === 'set-frame' ? <FramePicks values={values} onSet={set} /> : null}
      {operation.name === 'set-frame' ? <SixLocks parameters={parameters} on={on} /> : null}
      {preview && operation.name === 'add-datum' ? (
        <p>
          {preview.datum.kind === 'cylinder' || preview.datum.kind === 'sphere' ? `ø ${(2 * preview.datum.radius).toFixed(2)} mm, ` : ''}fit error{' '}
          {preview.datum.rms.toFixed(3)} mm over {preview.whole ? '' : datumBy === 'brush' ? 'a sample of ' : 'the nearest '}
          {preview.faces.length} faces{preview.whole ? '' : '; adding takes the whole area'}
        </p>
      ) : null}
      {trial ? <TrialResult trial={trial} isCurrent={isTried} values={values} onSet={set} /> : null}
      {operation.name === 'rebuild' && trial && isTried ? <SupportPreview trial={trial} least={Number(parameters.support ?? 0)} /> : null}
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
          {estimate && !estimate.refusal && !isTried ? (
            <span className="font-normal">· about {seconds(Math.max(1, Math.round(estimate.seconds)))}</span>
          ) : null}
        </button>
        <p id={`why-${operation.name}`} className={why ? 'text-warning' : 'opacity-80'} aria-live="polite">
          {why ??
            (busy
              ? 'Waits for its turn behind the running step.'
              : estimate?.faces
                ? `About ${Math.round(estimate.faces / 1000)} k faces, ${Math.round(estimate.memoryMb)} MB of memory. ${estimate.advice ?? ''}`
                : '')}
        </p>
      </div>
    </form>
  );
}
