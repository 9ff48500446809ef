import { useEffect } from 'react';
import { useView, useWorkspace } from '../../state/context';
import { PlaceButton } from '../../ui/PlaceButton';

export interface Comparison {
  body: string;
  to: string;
  tolerance: number | null;
  signed: boolean;
  rms: number;
  mean: number;
  p95: number;
  max: number;
  /** share that lies within the tolerance */
  within: number | null;
  places: { point: [number, number, number]; distance: number }[];
  histogram: { from: number; to: number; counts: number[] };
}

const HEIGHT = 40;

/** mm across that are shown around a place gone to. */
const ACROSS_MM = 20;

/** Without the sign that a rounded nothing would keep. */
const mm = (v: number): string => `${(Math.abs(v) < 5e-4 ? 0 : v).toFixed(3)} mm`;

/** How many distances lie in each span, with the tolerance marked. */
function Bars({ histogram: { from, to, counts }, tolerance, words }: { histogram: Comparison['histogram']; tolerance: number | null; words: string }) {
  const most = Math.max(1, ...counts);
  const at = (v: number) => (10 * counts.length * (v - from)) / (to - from);
  return (
    <figure className="grid gap-1">
      <svg viewBox={`0 0 ${10 * counts.length} ${HEIGHT}`} className="w-full text-primary" role="img" aria-label={words}>
        {counts.map((count, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a bin is its place
          <rect key={k} x={10 * k + 1} width={8} y={HEIGHT - (HEIGHT * count) / most} height={(HEIGHT * count) / most} fill="currentColor" />
        ))}
        {tolerance !== null && tolerance < to ? [-tolerance, tolerance].map((v) => <line key={v} x1={at(v)} x2={at(v)} y1={0} y2={HEIGHT} className="stroke-base-content/70" strokeDasharray="3 3" />) : null}
      </svg>
      <span className="flex text-xs opacity-80">
        <span className="flex-1">{mm(from)}</span>+{mm(to)}
      </span>
    </figure>
  );
}

/** What comparing has found: figures, how the distances are spread, and the worst places to go to; the view shows the distances as colours meanwhile. */
export function ComparisonResult({ comparisons, map }: { comparisons: Comparison[]; map: string | null }) {
  const { store } = useWorkspace();
  const probes = useView((s) => s.probes);
  useEffect(() => {
    store.setState({ map });
    return () => store.setState({ map: null });
  }, [store, map]);
  return (
    <>
      {map ? (
        <p className="flex items-center gap-2 opacity-85">
          <span className="flex-1">{probes.length === 0 ? 'Click the part to read the distance there.' : `${probes.length} ${probes.length === 1 ? 'place' : 'places'} read.`}</span>
          {probes.length > 0 ? (
            <button type="button" className="btn btn-xs" onClick={() => store.setState({ probes: [] })}>
              Clear
            </button>
          ) : null}
        </p>
      ) : null}
      {comparisons.map((c) => (
        <section key={c.body} className="grid gap-1" aria-label={`${c.body} against ${c.to}`}>
          <dl className="grid grid-cols-[1fr_auto] gap-x-2">
            <dt>root mean square</dt>
            <dd className="text-right">{mm(c.rms)}</dd>
            <dt>{c.signed ? 'mean, + outside' : 'mean'}</dt>
            <dd className="text-right">{mm(c.mean)}</dd>
            <dt>95 % lie within</dt>
            <dd className="text-right">{mm(c.p95)}</dd>
            <dt>farthest</dt>
            <dd className="text-right">{mm(c.max)}</dd>
            {c.within !== null && c.tolerance !== null ? (
              <>
                <dt>within {mm(c.tolerance)}</dt>
                <dd className="text-right">{(100 * c.within).toFixed(1)} %</dd>
              </>
            ) : null}
          </dl>
          <Bars histogram={c.histogram} tolerance={c.tolerance} words={`95 % of the distances are at most ${mm(c.p95)}.`} />
          <p className="opacity-80">Worst places</p>
          <ul>
            {c.places.slice(0, 5).map((place) => (
              <li key={place.point.join()} className="flex">
                <PlaceButton centre={place.point} acrossMm={ACROSS_MM}>
                  <span className="flex-1 truncate">{place.point.map((v) => v.toFixed(1)).join(', ')}</span>
                  <span className="opacity-80">
                    {place.distance > 0 && c.signed ? '+' : ''}
                    {mm(place.distance)}
                  </span>
                </PlaceButton>
              </li>
            ))}
          </ul>
        </section>
      ))}
    </>
  );
}
