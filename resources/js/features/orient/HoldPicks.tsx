import { ChevronDown, ChevronUp } from 'lucide-react';
import { useState } from 'react';
import type { DatumItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import type { Hold } from '../../operations/add-datum/datum';

const HOW = [
  { how: 'parallel', label: 'parallel to' },
  { how: 'square', label: 'square to' },
  { how: 'angle', label: 'at an angle to' },
] as const;

const hasDirection = (datum: DatumItem): boolean => datum.kind !== 'point' && datum.kind !== 'sphere';

/** Without what is not set. */
const set = (hold: Hold): Hold | undefined => {
  const left = Object.fromEntries(Object.entries(hold).filter(([, v]) => v !== undefined && v !== '')) as Hold;
  return Object.keys(left).length === 0 ? undefined : left;
};

/** What a fitted datum keeps to: a direction that another gives, a point, a diameter. */
export function HoldPicks({ kind, value, onChange }: { kind: string; value: Hold | undefined; onChange: (value: Hold | undefined) => void }) {
  const { datums } = useWorkspace().data.snapshot;
  const [open, setOpen] = useState(false);
  const now: Hold = value ?? {};
  const change = (part: Hold) => onChange(set({ ...now, ...part }));
  const directed = datums.filter(hasDirection);
  const places = datums.filter((d) => !hasDirection(d));
  const turns = kind !== 'sphere' && directed.length > 0;
  const goesThrough = (kind === 'plane' || kind === 'cylinder') && places.length > 0;
  const hasDiameter = kind === 'cylinder' || kind === 'sphere';
  if (!turns && !goesThrough && !hasDiameter) return null;
  return (
    <section className="rounded-field border border-neutral px-2 py-1" aria-label="Keep to">
      <button type="button" className="flex w-full items-center text-left" aria-expanded={open} onClick={() => setOpen(!open)}>
        <span className="flex-1">{value ? 'Keeps to' : 'Fits freely'}</span>
        {open ? <ChevronUp size={13} aria-hidden /> : <ChevronDown size={13} aria-hidden />}
      </button>
      <div className={`mt-1 gap-1.5 ${open ? 'grid' : 'hidden'}`}>
        {turns ? (
          <div className="flex items-center gap-1">
            <select className="select select-sm flex-1" aria-label="Direction" value={now.how ?? ''} onChange={(e) => change({ how: (e.target.value || undefined) as Hold['how'], to: e.target.value ? (now.to ?? directed[0]?.name) : undefined, angle: e.target.value === 'angle' ? (now.angle ?? 45) : undefined })}>
              <option value="">any direction</option>
              {HOW.map((h) => (
                <option key={h.how} value={h.how}>
                  {h.label}
                </option>
              ))}
            </select>
            {now.how ? (
              <select className="select select-sm w-28" aria-label="Held by" value={now.to} onChange={(e) => change({ to: e.target.value })}>
                {directed.map((d) => (
                  <option key={d.id}>{d.name}</option>
                ))}
              </select>
            ) : null}
          </div>
        ) : null}
        {now.how === 'angle' ? (
          <label className="flex items-center gap-1">
            <span className="flex-1">Angle</span>
            <input className="input input-sm w-20 text-right" type="number" min={0} max={90} step="any" aria-label="Held angle" value={now.angle ?? ''} onChange={(e) => change({ angle: e.target.value === '' ? 0 : Math.min(90, Math.max(0, Number(e.target.value))) })} />
            <span className="w-8 opacity-80">°</span>
          </label>
        ) : null}
        {goesThrough ? (
          <select className="select select-sm w-full" aria-label="Through" value={now.through ?? ''} onChange={(e) => change({ through: e.target.value || undefined })}>
            <option value="">through no given point</option>
            {places.map((d) => (
              <option key={d.id} value={d.name}>
                through {d.name}
              </option>
            ))}
          </select>
        ) : null}
        {hasDiameter ? (
          <label className="flex items-center gap-1">
            <span className="flex-1">Diameter</span>
            <input className="input input-sm w-20 text-right" type="number" min={0} step="any" placeholder="any" aria-label="Held diameter" value={now.diameter ?? ''} onChange={(e) => change({ diameter: Number(e.target.value) > 0 ? Number(e.target.value) : undefined })} />
            <span className="w-8 opacity-80">mm</span>
          </label>
        ) : null}
      </div>
    </section>
  );
}
