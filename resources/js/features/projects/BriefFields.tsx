import type { Brief } from '../../api/types';
import { TypedNumber } from '../../ui/TypedNumber';

const FIELD = 'grid grid-cols-[1fr_9rem] items-center gap-2';

/** What the receiver needs, field by field. */
export function BriefFields({ brief, onChange }: { brief: Brief; onChange: (brief: Brief) => void }) {
  return (
    <>
      <label className={FIELD}>
        Unit of the files
        <select className="select" value={brief.unit} onChange={(e) => onChange({ ...brief, unit: e.target.value as Brief['unit'] })}>
          {['mm', 'cm', 'm', 'in', 'ft'].map((u) => (
            <option key={u}>{u}</option>
          ))}
        </select>
      </label>
      <label className={FIELD}>
        Axis that points up
        <select className="select" value={brief.up} onChange={(e) => onChange({ ...brief, up: e.target.value as Brief['up'] })}>
          {['+x', '-x', '+y', '-y', '+z', '-z'].map((u) => (
            <option key={u} value={u}>
              {u.toUpperCase()}
            </option>
          ))}
        </select>
      </label>
      <div className={FIELD}>
        <span aria-hidden>Faces at most</span>
        <TypedNumber label="Faces at most" isWhole required least={100} value={brief.faceBudget} onChange={(faceBudget) => faceBudget !== undefined && onChange({ ...brief, faceBudget })} />
      </div>
      <div className={FIELD}>
        <span aria-hidden>Tolerance (mm)</span>
        <TypedNumber label="Tolerance (mm)" isLength required least={0.001} value={brief.toleranceMm} onChange={(toleranceMm) => toleranceMm !== undefined && onChange({ ...brief, toleranceMm })} />
      </div>
      <div className={FIELD}>
        <span aria-hidden>Measured share at least (%)</span>
        <TypedNumber label="Measured share at least (%)" sign="%" required least={0} most={100} value={Math.round(100 * brief.leastMeasured)} onChange={(percent) => percent !== undefined && onChange({ ...brief, leastMeasured: percent / 100 })} />
      </div>
      <label className="flex items-center gap-2">
        <input type="checkbox" className="checkbox" checked={brief.closed} onChange={(e) => onChange({ ...brief, closed: e.target.checked })} /> The mesh must be closed
      </label>
    </>
  );
}
