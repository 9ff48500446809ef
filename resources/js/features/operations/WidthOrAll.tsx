import type { ParameterInfo } from '../../api/types';
import { NumberField } from './NumberField';

/** Offered when a limit is asked for and none was typed yet, mm. */
const FIRST_LIMIT = 10;

/** Nothing, all, or what is no wider than a number of millimetres. */
export function WidthOrAll({ parameter, value, onChange }: { parameter: ParameterInfo; value: unknown; onChange: (value: unknown) => void }) {
  const limit = typeof value === 'number' ? value : undefined;
  const mode = limit !== undefined ? 'up to' : value === 'all' ? 'all' : 'none';
  return (
    <span className="flex items-center gap-2">
      <select className="select select-sm w-24" aria-label={parameter.label} value={mode} onChange={(e) => onChange(e.target.value === 'up to' ? FIRST_LIMIT : e.target.value)}>
        <option>none</option>
        <option>up to</option>
        <option>all</option>
      </select>
      {limit === undefined ? null : <NumberField parameter={{ ...parameter, label: `${parameter.label} up to`, type: 'float', unit: 'mm', min: 0, exclusiveMin: true }} value={limit} onChange={(v) => onChange(v ?? FIRST_LIMIT)} />}
    </span>
  );
}
