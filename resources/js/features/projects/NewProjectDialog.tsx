import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { Dialog } from '../../ui/Dialog';
import { LimitNote } from '../../ui/LimitNote';
import { NAME_MAX } from './nameMax';
import { BriefFields } from './BriefFields';
import type { Brief } from '../../api/types';

/** Name, unit and brief; the defaults suit most commissions. */
export function NewProjectDialog({ onClose }: { onClose: () => void }) {
  const [name, setName] = useState('');
  const [brief, setBrief] = useState<Brief>({ unit: 'mm', up: '+z', faceBudget: 60000, toleranceMm: 0.2, leastMeasured: 0.9, closed: true });
  const create = async () => {
    try {
      const { id } = await api.createProject({ name, brief });
      window.location.assign(`/projects/${id}`);
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
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
          <input className="input w-full" value={name} maxLength={NAME_MAX} required onChange={(e) => setName(e.target.value)} placeholder="Ratchet wheel, spare" />
        </label>
        <LimitNote text={name} max={NAME_MAX} />
        <p className="opacity-80">What the receiver needs:</p>
        <BriefFields brief={brief} onChange={setBrief} />
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
