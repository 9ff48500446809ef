import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { Dialog } from '../../ui/Dialog';

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
        <label className={field}>
          Faces at most
          <input className="input" type="number" min={100} step={1} value={brief.faceBudget} onChange={(e) => setBrief({ ...brief, faceBudget: Number(e.target.value) })} />
        </label>
        <label className={field}>
          Tolerance (mm)
          <input className="input" type="number" min={0.001} step="any" value={brief.toleranceMm} onChange={(e) => setBrief({ ...brief, toleranceMm: Number(e.target.value) })} />
        </label>
        <label className={field}>
          Measured share at least (%)
          <input className="input" type="number" min={0} max={100} value={Math.round(100 * brief.leastMeasured)} onChange={(e) => setBrief({ ...brief, leastMeasured: Number(e.target.value) / 100 })} />
        </label>
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
