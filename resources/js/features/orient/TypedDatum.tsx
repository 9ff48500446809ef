import { Triple } from './Triple';
import type { Typed } from '../../operations/add-datum/datum';

const NUMBERS: Record<string, { key: 'diameter' | 'halfAngle'; label: string; unit: string }[]> = {
  cylinder: [{ key: 'diameter', label: 'Diameter', unit: 'mm' }],
  sphere: [{ key: 'diameter', label: 'Diameter', unit: 'mm' }],
  cone: [
    { key: 'diameter', label: 'Diameter there', unit: 'mm' },
    { key: 'halfAngle', label: 'Angle to each side', unit: '°' },
  ],
};

const DIRECTION: Record<string, string> = { plane: 'Normal', line: 'Direction', cylinder: 'Axis', cone: 'Axis, to its wide end' };

/** A datum in numbers. */
export function TypedDatum({ kind, value, onChange }: { kind: string; value: Typed; onChange: (value: Typed) => void }) {
  const direction = DIRECTION[kind];
  return (
    <div className="grid gap-1.5">
      <Triple label={kind === 'point' ? 'Place' : kind === 'sphere' ? 'Centre' : 'A place on it'} unit="mm" value={value.origin} onChange={(origin) => onChange({ ...value, origin })} />
      {direction ? <Triple label={direction} unit="" value={value.direction} onChange={(next) => onChange({ ...value, direction: next })} /> : null}
      {(NUMBERS[kind] ?? []).map((n) => (
        <label key={n.key} className="flex items-center gap-1">
          <span className="flex-1">{n.label}</span>
          <input className="input input-sm w-20 text-right" type="number" min={0} step="any" aria-label={n.label} value={value[n.key] ?? ''} onChange={(e) => onChange({ ...value, [n.key]: Number(e.target.value) > 0 ? Number(e.target.value) : undefined })} />
          <span className="w-8 opacity-80">{n.unit}</span>
        </label>
      ))}
    </div>
  );
}
