import { useQuery } from '@tanstack/react-query';
import { X } from 'lucide-react';
import { useState } from 'react';
import { api } from '../api/client';
import type { BodyItem, ItemFacts as Facts } from '../api/types';
import { bytes } from '../ui/format';
import { LimitNote } from '../ui/LimitNote';
import { useWorkspace } from '../state/context';
import { labelOf } from '../state/stages';
import { MEASURED } from '../viewport/palette';

/** What the picker begins with: that of measured surface. */
const DEFAULT_COLOUR = `#${MEASURED.toString(16)}`;

/** Characters that a material may have: as the server takes it (Border). */
const MATERIAL_MAX = 60;

const grouped = (n: number, digits: number) => n.toLocaleString('en', { maximumFractionDigits: digits });

/** The facts as lines of a label and words; what does not apply is left out. */
export function factLines(facts: Facts): [string, string][] {
  const lines: [string, string | null][] = [
    ['Size', facts.sizeMm && `${facts.sizeMm.map((v) => v.toFixed(2)).join(' × ')} mm`],
    ['Faces', facts.faces ? grouped(facts.faces - (facts.quads ?? 0), 0) : null],
    ['Four-sided', facts.quads ? grouped(facts.quads, 0) : null],
    ['Points', facts.kept === null || facts.kept === facts.points ? grouped(facts.points, 0) : `${grouped(facts.kept, 0)} of ${grouped(facts.points, 0)} kept`],
    ['Area', facts.areaMm2 === null ? null : `${grouped(facts.areaMm2, 1)} mm²`],
    ['Volume', facts.volumeMm3 === null ? (facts.areaMm2 === null ? null : 'none: it is not closed') : `${grouped(facts.volumeMm3, 1)} mm³`],
    ['Pieces', facts.pieces === null ? null : String(facts.pieces)],
    ['Openings through it', facts.genus === null ? null : String(facts.genus)],
    ['Measured', facts.measured === null ? null : `${(100 * facts.measured).toFixed(1)} % of the area`],
    ['Residual', facts.residualMm === null ? null : `${facts.residualMm.toFixed(3)} mm`],
    ['Overlap', facts.overlap === null ? null : `${Math.round(100 * facts.overlap)} %`],
  ];
  return lines.filter((line): line is [string, string] => line[1] !== null);
}

/** The colour and material of a body, as somebody says them: they go into its files and the report. */
function LookFields({ body }: { body: BodyItem }) {
  const { projectId, run, store } = useWorkspace();
  const look = { colour: body.look?.colour ?? null, material: body.look?.material ?? '' };
  const [material, setMaterial] = useState(look.material);
  const set = (change: Partial<typeof look>) => run(() => api.updateProject(projectId, { looks: { [body.id]: { ...look, material: material.trim(), ...change } } }));
  return (
    <>
      <label className="flex items-center gap-2">
        <span className="flex-1 opacity-80">Material</span>
        <input className="input input-sm w-34" value={material} placeholder="not said" maxLength={MATERIAL_MAX} onChange={(e) => setMaterial(e.target.value)} onBlur={() => material.trim() !== look.material && set({})} onKeyDown={(e) => e.key === 'Enter' && e.currentTarget.blur()} />
      </label>
      <LimitNote text={material} max={MATERIAL_MAX} />
      <div className="flex items-center gap-2">
        <label className="flex flex-1 items-center gap-2">
          <span className="flex-1 opacity-80">Colour</span>
          <input
            type="color"
            className="h-7 w-10 cursor-pointer"
            title="The colour of its measured surface in files and the report; the view shows it with a colour for each body"
            defaultValue={look.colour ?? DEFAULT_COLOUR}
            key={look.colour}
            // The browser's own event: the other one comes with every move within the picker.
            ref={(input) => {
              if (input)
                input.onchange = () => {
                  store.setState({ colours: 'own' });
                  set({ colour: input.value });
                };
            }}
          />
        </label>
        {look.colour ? (
          <button type="button" className="btn btn-xs font-normal" onClick={() => set({ colour: null })}>
            Take off
          </button>
        ) : (
          <span className="opacity-80">not said</span>
        )}
      </div>
    </>
  );
}

/** What there is to know of one pass or body. */
export function ItemFacts({ itemId }: { itemId: string }) {
  const { data, operations, projectId, store } = useWorkspace();
  const item = [...data.snapshot.passes, ...data.snapshot.bodies].find((i) => i.id === itemId);
  const { data: facts, error } = useQuery({ queryKey: ['facts', projectId, itemId, item?.blob, item?.transform.join()], queryFn: () => api.facts(projectId, itemId), enabled: item !== undefined, staleTime: Infinity, retry: false });
  const stepName = (id: number) => labelOf(data.steps.find((s) => s.id === id)?.operation ?? '', operations);
  const line = (label: string, words: string) => (
    <p key={label} className="flex gap-2">
      <span className="flex-1 opacity-80">{label}</span>
      <span className="text-right">{words}</span>
    </p>
  );
  const openStep = (id: number) => (
    <button key={id} type="button" className="link" onClick={() => store.setState({ openItem: null, openStep: id })}>
      {stepName(id)}
    </button>
  );
  return (
    <section className="min-h-0 flex-1 overflow-y-auto p-3" aria-label="Facts">
      <div className="mb-2 flex items-center text-sm font-semibold">
        <h2 className="min-w-0 flex-1 truncate">{item?.name ?? 'Facts'}</h2>
        <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label="Close facts" onClick={() => store.setState({ openItem: null })}>
          <X size={14} aria-hidden />
        </button>
      </div>
      {item ? null : <p>It is not in the project any more.</p>}
      {error ? (
        <p role="alert" className="text-error">
          {(error as Error).message}
        </p>
      ) : null}
      {item && !facts && !error ? <p className="opacity-85">Measuring…</p> : null}
      {item && facts ? (
        <div className="grid gap-1.5">
          {factLines(facts).map(([label, words]) => line(label, words))}
          {'kind' in item ? <LookFields key={item.id} body={item} /> : null}
          {facts.madeBy === null ? null : (
            <p className="flex gap-2">
              <span className="flex-1 opacity-80">Made by</span>
              {openStep(facts.madeBy)}
            </p>
          )}
          {facts.changedBy.length === 0 ? null : (
            <p className="flex gap-2">
              <span className="flex-1 opacity-80">Changed by</span>
              <span className="flex flex-wrap justify-end gap-x-2">{facts.changedBy.map(openStep)}</span>
            </p>
          )}
          {Object.keys(facts.fileBytes).length === 0 ? null : (
            <>
              <h3 className="mt-2 font-semibold">Size of its files, about</h3>
              {Object.entries(facts.fileBytes).map(([format, n]) => line(format.toUpperCase(), bytes(n)))}
            </>
          )}
        </div>
      ) : null}
    </section>
  );
}
