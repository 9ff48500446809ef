import { useQueries } from '@tanstack/react-query';
import { SlidersHorizontal, X } from 'lucide-react';
import { useEffect, useId, useState } from 'react';
import { api } from '../../api/client';
import type { BodyItem, Trial } from '../../api/types';
import { Choice } from '../../ui/Choice';
import { bytes, count, secondsBetween } from '../../ui/format';
import { useView, useWorkspace } from '../../state/context';
import { sameParameters } from '../operations/trial';
import { useEstimate } from '../operations/useEstimate';
import { facesAt, measuredAt, placeOf, SLIDER } from './levels';
import { isCurrent } from './shapes';

/** What the figures of the operation say of a count of faces. */
interface Told {
  faces: number;
  p95: number;
  farthest: number;
}

const mm = (v: number): string => `${v.toFixed(3)} mm`;

interface Props {
  /** the operation that measures, by its name in the catalogue */
  operation: string;
  parameters: Record<string, unknown>;
  bodies: readonly BodyItem[];
  on: string[] | null;
  /** faces that are asked for; null where the form says it in another way that only a run can tell */
  faces: number | null;
  /** faces that the brief allows */
  budget: number;
  onFaces: (faces: number) => void;
}

/** How large the files of the bodies would be with this share of their faces, by format. */
function FileSizes({ bodies, share }: { bodies: readonly BodyItem[]; share: number }) {
  const { projectId } = useWorkspace();
  const sizes = useQueries({
    queries: bodies.map((b) => ({ queryKey: ['facts', projectId, b.id, b.blob], queryFn: () => api.facts(projectId, b.id), staleTime: Infinity })),
    combine: (found) => (found.some((f) => !f.data) ? null : found.map((f) => f.data?.fileBytes ?? {})),
  });
  if (!sizes) return null;
  const all = new Map<string, number>();
  for (const one of sizes) for (const [format, n] of Object.entries(one)) all.set(format, (all.get(format) ?? 0) + n);
  return (
    <p className="opacity-85" data-file-sizes>
      Files about {[...all].map(([format, n]) => `${format.toUpperCase()} ${bytes(share * n)}`).join(', ')}
    </p>
  );
}

/** The slider itself, once every count of faces has been measured. */
function Slider({ stops, bodies, faces, budget, onFaces }: Omit<Props, 'operation' | 'parameters' | 'on'> & { stops: Told[] }) {
  const { store } = useWorkspace();
  const list = useId();
  const [isShaded, setShaded] = useState(true);
  const [most, fewest] = [stops[0]?.faces ?? 0, stops[stops.length - 1]?.faces ?? 0];
  const at = faces === null ? null : Math.min(most, Math.max(fewest, faces));
  useEffect(() => {
    store.setState({ level: at === null ? null : { faces: at, isShaded } });
  }, [store, at, isShaded]);
  useEffect(() => () => store.setState({ level: null }), [store]);
  const measured = measuredAt(stops, at ?? most);
  const words = at === null ? 'found when it is carried out' : `${at.toLocaleString('en-GB')} faces, ${((100 * at) / most).toPrecision(2)} %`;
  return (
    <div className="grid gap-1 rounded-field border border-neutral p-2">
      <label className="grid gap-1">
        <span className="flex">
          <span className="flex-1">From all to few</span>
          <output className="text-right">{words}</output>
        </span>
        <input
          type="range"
          className="range range-xs w-full"
          min={0}
          max={SLIDER}
          list={list}
          value={placeOf(at ?? most, most, fewest)}
          aria-label="From all faces to few"
          aria-valuetext={at === null ? words : `${words}; 95 % of the surface within ${mm(measured.p95)}`}
          onChange={(e) => onFaces(facesAt(Number(e.target.value), most, fewest))}
        />
        {budget < most && budget > fewest ? (
          <datalist id={list}>
            <option value={placeOf(budget, most, fewest)} label={`the brief: ${count(budget)}`} />
          </datalist>
        ) : null}
      </label>
      {at === null ? (
        <p className="opacity-85">With a bound on the deviation the count is found when it is carried out. Move the slider to ask for a count instead.</p>
      ) : (
        <>
          <dl className="grid grid-cols-[1fr_auto] gap-x-2">
            <dt>95 % of the surface within</dt>
            <dd className="text-right">{mm(measured.p95)}</dd>
            <dt>farthest place found</dt>
            <dd className="text-right">{mm(measured.farthest)}</dd>
          </dl>
          <FileSizes bodies={bodies} share={at / most} />
          <Choice
            label="How the view shows it"
            options={[
              { value: true, label: 'By distance' },
              { value: false, label: 'Faces alone' },
            ]}
            value={isShaded}
            onChoose={setShaded}
          />
        </>
      )}
    </div>
  );
}

/** A slider over the count of faces that shows the bodies at once as they would be: all collapses come from one run, which a click begins. */
export function LevelSlider({ operation, parameters, bodies, on, ...asked }: Props) {
  const { data, operations, projectId, run, store } = useWorkspace();
  const info = operations.find((o) => o.name === operation);
  const trial: Trial | null = data.trial?.step.operation === operation ? data.trial : null;
  const isMeasured = trial?.step.state === 'done' && sameParameters(trial.step.parameters, parameters) && bodies.every((b) => (trial.artefacts ?? []).some((a) => a.bodyId === b.id && isCurrent(a, bodies)));
  const showTrial = useView((s) => s.showTrial);
  if (!info || bodies.length === 0) return null;
  if (trial && (trial.step.state === 'waiting' || trial.step.state === 'running'))
    return (
      <div className="grid gap-1 rounded-field border border-primary p-2">
        <p className="flex items-center">
          <span className="flex-1">Measuring every count: {trial.step.doing ?? 'waiting for a worker'}</span>
          <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Stop measuring" onClick={() => run(() => api.forgetTrials(projectId))}>
            <X size={13} aria-hidden />
          </button>
        </p>
        <progress className="progress progress-primary h-1.5" value={trial.step.progress} max={1} aria-label="Progress of measuring" />
      </div>
    );
  if (isMeasured && showTrial) return <Slider stops={(trial.step.figures?.after.stops as Told[] | undefined) ?? []} bodies={bodies} {...asked} />;
  return (
    <Begin
      info={info}
      parameters={parameters}
      on={on}
      problem={trial?.step.message ?? null}
      onBegin={() => {
        store.setState({ showTrial: true });
        run(() => api.tryStep(projectId, operation, parameters, on));
      }}
    />
  );
}

function Begin({ info, parameters, on, problem, onBegin }: { info: Parameters<typeof useEstimate>[0]; parameters: Record<string, unknown>; on: string[] | null; problem: string | null; onBegin: () => void }) {
  const estimate = useEstimate(info, parameters, on, true);
  return (
    <>
      <button type="button" className="btn btn-sm justify-self-start font-normal" disabled={!!estimate?.refusal} title={estimate?.refusal ?? 'Measures the surface at every count of faces, once; a slider then shows each at once. Nothing is changed'} onClick={onBegin}>
        <SlidersHorizontal size={13} aria-hidden /> See every count on a slider
        {estimate && !estimate.refusal ? <span>· {secondsBetween(estimate.seconds)}</span> : null}
      </button>
      {problem || estimate?.refusal ? <p className="text-warning">{problem ?? estimate?.refusal}</p> : null}
    </>
  );
}
