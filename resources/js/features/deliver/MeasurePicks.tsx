import { X } from 'lucide-react';
import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../../api/client';
import { useView, useWorkspace } from '../../state/context';
import { Choice } from '../../ui/Choice';
import type { Values } from '../../operations/module';

/** What can be fitted around a click (MeasureParameters::FITS). */
const FITS = [
  { value: 'plane', label: 'plane' },
  { value: 'cylinder', label: 'cylinder' },
  { value: 'cone', label: 'cone' },
  { value: 'sphere', label: 'ball' },
  { value: 'rim', label: 'round rim' },
  { value: 'point', label: 'the place itself' },
] as const;

/** At most this many things are measured between. */
const MOST = 2;

/** What was clicked to be measured, what was taken for it, and the value that comes of it. */
export function MeasurePicks({ values, set }: { values: Values; set: (name: string, value: unknown) => void }) {
  const { projectId, store, data } = useWorkspace();
  const picks = useView((s) => s.picks);
  const datums = (values.of as string[] | undefined) ?? [];
  const chosen = (values.fits as (string | null)[] | undefined) ?? [];
  // One more click than fits begins anew.
  useEffect(() => {
    if (datums.length + picks.length > MOST) {
      store.setState({ picks: picks.slice(-1) });
      set('fits', undefined);
      set('of', undefined);
    }
  }, [picks, datums.length, store, set]);
  const of = [...datums, ...picks.map((pick, k) => ({ body: pick.itemId, face: pick.index, at: pick.pointMm, ...(chosen[k] ? { fit: chosen[k] } : {}) }))].slice(0, MOST);
  const isOfCloud = picks.some((pick) => pick.kind !== 'body');
  const head = data.steps.length;
  const { data: found, error } = useQuery({
    queryKey: ['measure-offered', projectId, head, of],
    queryFn: () => api.measurePreview(projectId, of, null),
    enabled: of.length > 0 && !isOfCloud,
    retry: false,
    placeholderData: (before) => before,
  });
  const asked = found?.offered.includes(String(values.kind)) ? String(values.kind) : found?.offered[0];
  const { data: valued } = useQuery({
    queryKey: ['measure-preview', projectId, head, of, asked],
    queryFn: () => api.measurePreview(projectId, of, asked ?? null),
    enabled: of.length > 0 && !isOfCloud && asked !== undefined,
    retry: false,
  });
  const fits = found?.things.slice(datums.length).map((thing) => thing.fit);
  const key = fits?.join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which
  useEffect(() => set('found', fits), [key, set]);
  useEffect(() => {
    if (picks.length > 0 && asked !== undefined && asked !== values.kind) set('kind', asked);
  }, [asked, values.kind, picks.length, set]);
  const measured = of.length > 0 ? (valued?.measured ?? null) : null;
  useEffect(() => {
    store.setState({ dimension: measured && measured.line.length > 0 ? { line: measured.line, words: measured.words } : null });
    return () => store.setState({ dimension: null });
  }, [measured, store]);
  if (isOfCloud) return <p className="text-warning">Points are not measured on: click a body.</p>;
  if (picks.length === 0) return measured ? <Value words={measured.words} /> : <p className="opacity-85">Click what is measured on the part: one place for a diameter or a form, two for a distance or an angle.</p>;
  const drop = (k: number) => {
    store.setState({ picks: picks.filter((_, j) => j !== k) });
    set(
      'fits',
      chosen.filter((_, j) => j !== k),
    );
  };
  return (
    <section className="grid grid-cols-[minmax(0,1fr)] gap-1.5" aria-label="What is measured">
      <ol className="grid gap-1">
        {picks.map((pick, k) => (
          <li key={pick.pointMm.join()} className="flex items-center gap-1.5">
            <span className="w-4 text-center font-semibold" aria-hidden>
              {k + 1}
            </span>
            <select
              className="select select-sm w-28"
              aria-label={`What is taken at ${k + 1}`}
              value={chosen[k] ?? fits?.[k] ?? ''}
              onChange={(e) =>
                set(
                  'fits',
                  picks.map((_, j) => (j === k ? e.target.value : (chosen[j] ?? null))),
                )
              }
            >
              {fits?.[k] === undefined ? <option value="">looking…</option> : null}
              {FITS.map((fit) => (
                <option key={fit.value} value={fit.value}>
                  {fit.label}
                </option>
              ))}
            </select>
            <span className="min-w-0 flex-1 truncate opacity-85">{found?.things[datums.length + k]?.words.replace(/.*fit error|^[^,]*$/, '').replace(/(.+)/, 'off$1')}</span>
            <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Take back ${k + 1}`} onClick={() => drop(k)}>
              <X size={13} aria-hidden />
            </button>
          </li>
        ))}
      </ol>
      {error ? <p className="text-warning">{error.message}</p> : null}
      {found && found.offered.length > 1 ? <Choice label="Measured is" options={found.offered.map((kind) => ({ value: kind, label: kind }))} value={String(values.kind)} onChoose={(kind) => set('kind', kind)} /> : null}
      {found && found.offered.length === 1 ? <p className="font-semibold first-letter:uppercase">{found.offered[0]}</p> : null}
      {measured ? <Value words={measured.words} /> : valued?.why ? <p className="text-warning">{valued.why}</p> : valued ? <p className="opacity-85">Taken when it is applied.</p> : null}
    </section>
  );
}

function Value({ words }: { words: string }) {
  return (
    <output className="text-lg font-semibold tabular-nums" aria-label="Value">
      {words}
    </output>
  );
}
