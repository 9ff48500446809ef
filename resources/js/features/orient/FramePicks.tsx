import { RotateCcw } from 'lucide-react';
import type { DatumItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { becomes, type FrameChoice, hasWay, PLACES, toChoice } from './frame';
import { type Three, Triple } from './Triple';

/** No datum, where one may have been proposed: a value that is there, and empty. */
const NONE = '';

/** First, second and third datum of a frame; what each becomes in it, and whether the other way round. */
export function FramePicks({ values, onSet }: { values: Record<string, unknown>; onSet: (name: string, value: unknown) => void }) {
  const { data } = useWorkspace();
  const { datums } = data.snapshot;
  const find = (choice: FrameChoice | null): DatumItem | undefined => datums.find((d) => d.id === choice?.datum || d.name === choice?.datum);
  const first = find(toChoice(values.first));
  const startAnew = () => {
    for (const place of PLACES) onSet(place, NONE);
    onSet('offset', undefined);
  };
  const isShifted = ((values.offset as Three | undefined) ?? []).some((v) => v !== 0);
  // A kept frame leaves nothing to a second datum.
  const places = first?.kind === 'frame' ? PLACES.slice(0, 1) : PLACES;
  return (
    <div className="grid gap-2">
      {places.map((place) => {
        const choice = toChoice(values[place]);
        const datum = find(choice);
        const label = `${place.charAt(0).toUpperCase()}${place.slice(1)} datum`;
        const change = (to: Partial<FrameChoice>) => choice && onSet(place, { ...choice, ...to });
        return (
          <div key={place} className="grid grid-cols-[1fr_8.5rem] items-center gap-x-1 gap-y-1">
            <span>{label}</span>
            <select
              className="select select-sm w-full"
              aria-label={label}
              value={datum?.id ?? ''}
              onChange={(e) => {
                onSet(place, e.target.value ? { datum: e.target.value } : NONE);
                // What was proposed to go with the first one goes with another no more.
                if (place === 'first') for (const later of PLACES.slice(1)) onSet(later, NONE);
              }}
            >
              <option value="">{place === 'first' ? 'choose' : 'none'}</option>
              {datums.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </select>
            {datum && choice && datum.kind !== 'frame' ? (
              <>
                <label className={`flex items-center gap-1.5 justify-self-end ${hasWay(datum.kind, choice.to) ? '' : 'invisible'}`} title="The other way round">
                  <input type="checkbox" className="checkbox checkbox-xs" aria-label={`Flip the ${place} datum`} checked={choice.flip ?? false} onChange={(e) => change({ flip: e.target.checked })} />
                  flip
                </label>
                <select className="select select-sm w-full" aria-label={`What the ${place} datum becomes`} value={choice.to ?? ''} onChange={(e) => change({ to: e.target.value || undefined })}>
                  {becomes(datum.kind).map(({ to, label }) => (
                    <option key={to} value={to}>
                      {label}
                    </option>
                  ))}
                </select>
              </>
            ) : null}
          </div>
        );
      })}
      <Triple label="The origin then lies at" unit="mm" value={(values.offset as Three | undefined) ?? [0, 0, 0]} onChange={(offset) => onSet('offset', offset)} />
      {first || isShifted ? (
        <button type="button" className="btn btn-xs justify-self-start font-normal" onClick={startAnew}>
          <RotateCcw size={12} aria-hidden /> Start anew
        </button>
      ) : null}
    </div>
  );
}
