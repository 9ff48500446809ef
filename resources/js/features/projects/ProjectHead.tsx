import { Pencil } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';
import { Dialog } from '../../ui/Dialog';
import { MiddleCut } from '../../ui/MiddleCut';
import { NAME_MAX } from './nameMax';
import { BriefFields } from './BriefFields';

function BriefDialog({ onClose }: { onClose: () => void }) {
  const { data, projectId, run } = useWorkspace();
  const [brief, setBrief] = useState(data.project.brief);
  return (
    <Dialog title="What the receiver needs" onClose={onClose}>
      <form
        className="grid gap-3"
        onSubmit={(e) => {
          e.preventDefault();
          run(() => api.updateProject(projectId, { brief }).then(onClose));
        }}
      >
        <BriefFields brief={brief} onChange={setBrief} />
        <p className="opacity-80">The ready card goes by it at once; no step is changed.</p>
        <div className="mt-2 flex justify-end gap-2">
          <button type="button" className="btn btn-ghost" onClick={onClose}>
            Cancel
          </button>
          <button type="submit" className="btn btn-primary">
            Save
          </button>
        </div>
      </form>
    </Dialog>
  );
}

/** Name and brief of the project, each changed where it stands. */
export function ProjectHead() {
  const { data, projectId, run } = useWorkspace();
  const { name, brief } = data.project;
  const [naming, setNaming] = useState(false);
  const [briefing, setBriefing] = useState(false);
  const rename = (to: string) => {
    setNaming(false);
    if (to.trim() !== '' && to.trim() !== name) run(() => api.updateProject(projectId, { name: to.trim() }));
  };
  return (
    <div className="min-w-0 leading-tight">
      {naming ? (
        <input
          className="input input-xs w-40"
          defaultValue={name}
          maxLength={NAME_MAX}
          title={`At most ${NAME_MAX} characters`}
          aria-label="New name of the project"
          // biome-ignore lint/a11y/noAutofocus: the field appears where the person has just clicked
          autoFocus
          onBlur={(e) => rename(e.target.value)}
          onKeyDown={(e) => (e.key === 'Enter' ? rename(e.currentTarget.value) : e.key === 'Escape' ? setNaming(false) : undefined)}
        />
      ) : (
        <div className="flex min-w-0 items-center gap-1">
          <h1 className="flex min-w-0 text-sm font-semibold">
            <MiddleCut>{name}</MiddleCut>
          </h1>
          <button type="button" className="opacity-60 hover:opacity-100" aria-label="Rename the project" title="Rename the project" onClick={() => setNaming(true)}>
            <Pencil size={10} aria-hidden />
          </button>
        </div>
      )}
      <button type="button" className="flex items-center gap-1 opacity-75 hover:underline" aria-label="Change the brief" title="What the receiver needs: click to change it" onClick={() => setBriefing(true)}>
        {brief.unit} · to {brief.toleranceMm} mm <Pencil size={10} aria-hidden />
      </button>
      {briefing ? <BriefDialog onClose={() => setBriefing(false)} /> : null}
    </div>
  );
}
