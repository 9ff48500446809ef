import { Triple } from './Triple';
import type { Typed } from '../../operations/add-datum/datum';
import { TypedNumber } from '../../ui/TypedNumber';

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
        <div key={n.key} className="flex flex-wrap items-center gap-1">
          <span className="flex-1" aria-hidden>
            {n.label}
          </span>
          <TypedNumber className="input input-sm w-20 text-right" {...(n.unit === 'mm' ? { isLength: true } : { sign: '°' })} label={n.label} value={value[n.key]} onChange={(number) => onChange({ ...value, [n.key]: number !== undefined && number > 0 ? number : undefined })} />
          <span className="w-8 opacity-80">{n.unit}</span>
        </div>
      ))}
    </div>
  );
}
