import type { DatumItem } from '../../api/types';
import { useWorkspace } from '../../state/context';
import type { Construction } from '../../operations/add-datum/datum';
import { Triple } from './Triple';
import { TypedNumber } from '../../ui/TypedNumber';

/** The ways in which the server makes a datum of others (Construct.php), and what each needs. */
const WAYS: { how: string; label: string; needs: string }[] = [
  { how: 'offset', label: 'Plane at a distance', needs: 'one plane' },
  { how: 'halfway', label: 'Half-way between', needs: 'two planes or two points' },
  { how: 'plane-through', label: 'Plane through', needs: 'three points or more, a line and a point, or two lines' },
  { how: 'square-plane', label: 'Plane through a line, square to a plane', needs: 'a line and a plane' },
  { how: 'clock', label: 'Plane about an axis, at an angle', needs: 'an axis and a point: the plane goes through both, and on by the angle' },
  { how: 'line-through', label: 'Line through points', needs: 'two points or more' },
  { how: 'square-line', label: 'Line from a point, square to', needs: 'a point, and a plane or a line' },
  { how: 'axis', label: 'Axis of', needs: 'one cylinder or cone' },
  { how: 'centre', label: 'Middle of', needs: 'one datum' },
  { how: 'copy', label: 'Copy, moved', needs: 'one datum' },
  { how: 'drop', label: 'Point dropped onto', needs: 'a point, and a plane or a line' },
  { how: 'meet', label: 'Where they meet', needs: 'two or three planes, or a line and a plane' },
];

/** How a new datum is made of others: the way, the datums, and the distance where one is needed. */
export function ConstructPicks({ value, onChange }: { value: Construction | undefined; onChange: (value: Construction) => void }) {
  const { data } = useWorkspace();
  const now: Construction = value ?? { how: '', of: [] };
  const way = WAYS.find((w) => w.how === now.how);
  const toggle = ({ name }: DatumItem) => onChange({ ...now, of: now.of.includes(name) ? now.of.filter((n) => n !== name) : [...now.of, name] });
  return (
    <div className="grid gap-2">
      <select className="select select-sm w-full" aria-label="How it is made" value={now.how} onChange={(e) => onChange({ how: e.target.value, of: now.of, ...(e.target.value === 'offset' || e.target.value === 'clock' ? { by: now.by } : {}), ...(e.target.value === 'copy' ? { shift: now.shift ?? [0, 0, 0] } : {}) })}>
        <option value="" disabled>
          How it is made
        </option>
        {WAYS.map((w) => (
          <option key={w.how} value={w.how}>
            {w.label}
          </option>
        ))}
      </select>
      {way ? <p className="opacity-85">Needs {way.needs}.</p> : null}
      <fieldset className="grid gap-0.5" aria-label="Made of">
        {data.snapshot.datums.map((datum) => (
          <label key={datum.id} className="flex items-center gap-2">
            <input type="checkbox" className="checkbox checkbox-xs" checked={now.of.includes(datum.name)} onChange={() => toggle(datum)} />
            <span className="flex-1 truncate">{datum.name}</span>
            <span className="opacity-80">{datum.kind}</span>
          </label>
        ))}
      </fieldset>
      {now.how === 'copy' ? <Triple label="Moved by" unit="mm" value={now.shift ?? [0, 0, 0]} onChange={(shift) => onChange({ ...now, shift })} /> : null}
      {now.how === 'offset' || now.how === 'clock' ? (
        <div className="flex flex-wrap items-center gap-1">
          <span className="flex-1" aria-hidden title={now.how === 'clock' ? 'About the axis, from the point on' : 'Along the normal of the plane; below 0 to its other side'}>
            {now.how === 'clock' ? 'Turned on by' : 'Distance'}
          </span>
          <TypedNumber className="input input-sm w-20 text-right" {...(now.how === 'clock' ? { sign: '°' } : { isLength: true })} label={now.how === 'clock' ? 'Turned on by' : 'Distance'} value={now.by} onChange={(by) => onChange({ ...now, by })} />
          <span className="w-8 opacity-80">{now.how === 'clock' ? '°' : 'mm'}</span>
        </div>
      ) : null}
    </div>
  );
}
