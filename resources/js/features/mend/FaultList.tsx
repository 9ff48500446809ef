import { ChevronLeft, ChevronRight, Wrench } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../../api/client';
import { count } from '../../ui/format';
import { useWorkspace } from '../../state/context';
import { FAMILIES, type FaultFamily, faultMarks, repairedAs, turned } from './faults';

/** The faults by family, the gravest first; each can be gone through place by place, and repaired alone. */
export function FaultList({ families }: { families: FaultFamily[] }) {
  const { viewport, projectId, run } = useWorkspace();
  const [at, setAt] = useState<Record<string, number | null>>({});
  useEffect(() => {
    viewport.current?.setMarks(faultMarks(families));
    return () => viewport.current?.setMarks([]);
  }, [families, viewport]);
  const go = (f: FaultFamily, by: 1 | -1) => {
    const next = turned(at[f.family] ?? null, by, f.places.length);
    const place = f.places[next];
    if (place) viewport.current?.flyTo(place.centre, Math.max(10, 4 * place.sizeMm));
    setAt((old) => ({ ...old, [f.family]: next }));
  };
  return (
    <ul aria-label="Faults" className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
      {families.map((f) => {
        const sign = FAMILIES[f.family] ?? { label: f.family, glyph: '?', colour: '#ccc', why: '' };
        const now = at[f.family] ?? null;
        const place = now === null ? undefined : f.places[now];
        return (
          <li key={f.family} className="grid grid-cols-[minmax(0,1fr)] gap-0.5" data-fault={f.family}>
            <div className="flex items-center gap-0.5" title={sign.why}>
              <span className="grid size-5 shrink-0 place-items-center rounded-full text-xs font-semibold text-black" style={{ background: sign.colour }} aria-hidden>
                {sign.glyph}
              </span>
              <span className="min-w-0 flex-1 pl-0.5 leading-tight">{sign.label}</span>
              <span className="font-semibold">{count(f.count)}</span>
              <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Previous: ${sign.label}`} title="Go to the one before" onClick={() => go(f, -1)}>
                <ChevronLeft size={14} aria-hidden />
              </button>
              <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Next: ${sign.label}`} title="Go to the next one" onClick={() => go(f, 1)}>
                <ChevronRight size={14} aria-hidden />
              </button>
              <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Repair: ${sign.label}`} title="Repair this family alone; undo brings it back" onClick={() => run(() => api.addStep(projectId, 'repair', { faults: [repairedAs(f.family)] }))}>
                <Wrench size={13} aria-hidden />
              </button>
            </div>
            {place && now !== null ? (
              <p className="pl-6 opacity-90">
                Place {now + 1} of {f.places.length}
                {f.more > 0 ? ` (${count(f.more)} more)` : ''}: {f.family === 'openEdges' || f.family === 'pinHoles' ? `${place.count} edges, ` : f.family === 'pieces' ? `${count(place.count)} faces, ` : place.count > 1 ? `${count(place.count)} together, ` : ''}
                {place.sizeMm.toFixed(1)} mm
              </p>
            ) : null}
          </li>
        );
      })}
    </ul>
  );
}
