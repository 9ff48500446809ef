import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { Dialog } from '../../ui/Dialog';
import { TypedNumber } from '../../ui/TypedNumber';

/** Name, unit and brief; the defaults suit most commissions. */
export function NewProjectDialog({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [brief, setBrief] = useState({ unit: 'mm', up: '+z', faceBudget: 60000, toleranceMm: 0.2, leastMeasured: 0.9, closed: true });
  const create = async () => {
    try {
      const { id } = await api.createProject({ name, brief });
      window.location.assign(`/projects/${id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const field = 'grid grid-cols-[1fr_9rem] items-center gap-2';
  return (
    <Dialog title="New project" onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          void create();
        }}
      >
        <label className="grid gap-1">
          Name
          <input className="input w-full" value={name} maxLength={200} required onChange={(e) => setName(e.target.value)} placeholder="Ratchet wheel, spare" />
        </label>
        <p className="opacity-80">What the receiver needs:</p>
        <label className={field}>
          Unit of the files
          <select className="select" value={brief.unit} onChange={(e) => setBrief({ ...brief, unit: e.target.value })}>
            {['mm', 'cm', 'm', 'in', 'ft'].map((u) => (
              <option key={u}>{u}</option>
            ))}
          </select>
        </label>
        <label className={field}>
          Axis that points up
          <select className="select" value={brief.up} onChange={(e) => setBrief({ ...brief, up: e.target.value })}>
            {['+x', '-x', '+y', '-y', '+z', '-z'].map((u) => (
              <option key={u} value={u}>
                {u.toUpperCase()}
              </option>
            ))}
          </select>
        </label>
        <div className={field}>
          <span aria-hidden>Faces at most</span>
          <TypedNumber label="Faces at most" isWhole required least={100} value={brief.faceBudget} onChange={(faceBudget) => faceBudget !== undefined && setBrief({ ...brief, faceBudget })} />
        </div>
        <div className={field}>
          <span aria-hidden>Tolerance (mm)</span>
          <TypedNumber label="Tolerance (mm)" isLength required least={0.001} value={brief.toleranceMm} onChange={(toleranceMm) => toleranceMm !== undefined && setBrief({ ...brief, toleranceMm })} />
        </div>
        <div className={field}>
          <span aria-hidden>Measured share at least (%)</span>
          <TypedNumber label="Measured share at least (%)" sign="%" required least={0} most={100} value={Math.round(100 * brief.leastMeasured)} onChange={(percent) => percent !== undefined && setBrief({ ...brief, leastMeasured: percent / 100 })} />
        </div>
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox" checked={brief.closed} onChange={(e) => setBrief({ ...brief, closed: e.target.checked })} /> The mesh must be closed
        </label>
        <div className="flex justify-end gap-2 mt-2">
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary" disabled={name.trim() === ''} title={name.trim() === '' ? 'Give the project a name' : undefined}>
            Create project
          </button>
        </div>
      </form>
    </Dialog>
  );
}
