import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Archive, ArchiveRestore, Download, Plus, Search, Trash2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { ProjectCard } from '../../api/types';
import { Dialog } from '../../ui/Dialog';
import { count } from '../../ui/format';
import { AccountMenu } from '../account/AccountMenu';
import { MiddleCut } from '../../ui/MiddleCut';
import { listed, ORDERS, type Order } from './listed';
import { NewProjectDialog } from './NewProjectDialog';
import { OpenProjectFile } from './OpenProjectFile';
import { ProjectPicture } from './ProjectPicture';

const facts = (p: ProjectCard) => [p.lengthMm === null ? null : `about ${Math.round(p.lengthMm)} mm long`, p.passes === 0 ? null : `${p.passes} passes, ${count(p.points)} points`, p.faces === 0 ? null : `${count(p.faces)} faces`].filter(Boolean).join(' · ') || 'empty';

export function ProjectList() {
  const client = useQueryClient();
  const { data, error } = useQuery({ queryKey: ['projects'], queryFn: api.projects });
  const [creating, setCreating] = useState(false);
  const [words, setWords] = useState('');
  const [order, setOrder] = useState<Order>('changed');
  const [archived, setArchived] = useState(false);
  const away = data?.filter((p) => p.archived).length ?? 0;
  const shown = listed(data ?? [], { words, order, archived: archived && away > 0 });
  const archive = async (project: ProjectCard) => {
    try {
      await api.updateProject(project.id, { archived: !project.archived });
      await client.invalidateQueries({ queryKey: ['projects'] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const [deleting, setDeleting] = useState<ProjectCard | null>(null);
  const remove = async (project: ProjectCard) => {
    try {
      await api.deleteProject(project.id);
      await client.invalidateQueries({ queryKey: ['projects'] });
    } catch (problem) {
      toast.error((problem as Error).message);
    }
    setDeleting(null);
  };
  return (
    <div className="min-h-full bg-base-200">
      <header className="flex items-center gap-3 border-b border-neutral bg-base-100 px-6 h-13">
        <img src="/icon.svg" alt="" className="h-6" />
        <h1 className="font-semibold text-base flex-1">Emberstone</h1>
        <AccountMenu />
      </header>
      <main className="mx-auto max-w-6xl p-6">
        <div className="flex items-center mb-4">
          <h2 className="text-xl font-semibold flex-1">Projects</h2>
          <OpenProjectFile />
          <button type="button" className="btn btn-primary" onClick={() => setCreating(true)}>
            <Plus size={16} aria-hidden /> New project
          </button>
        </div>
        {data && data.length > 1 ? (
          <div className="mb-4 flex flex-wrap items-center gap-3">
            <label className="input flex w-72 items-center gap-2">
              <Search size={14} aria-hidden />
              <input className="grow" value={words} placeholder="Name or owner" aria-label="Find a project" onChange={(e) => setWords(e.target.value)} />
            </label>
            <select className="select w-48" aria-label="Order of the projects" value={order} onChange={(e) => setOrder(e.target.value as Order)}>
              {ORDERS.map((o) => (
                <option key={o.order} value={o.order}>
                  {o.label}
                </option>
              ))}
            </select>
            {away > 0 ? (
              <label className="flex items-center gap-2">
                <input type="checkbox" className="checkbox" checked={archived} onChange={(e) => setArchived(e.target.checked)} /> Archived ({away})
              </label>
            ) : null}
          </div>
        ) : null}
        {data && data.length > 0 && shown.length === 0 ? (
          <p className="py-8 text-center opacity-80">{words.trim() === '' ? 'All projects are archived: tick "Archived" to see them.' : `No ${archived ? 'archived ' : ''}project is called "${words.trim()}"${!archived && away > 0 ? '; one that is archived may be' : ''}.`}</p>
        ) : null}
        {error ? (
          <p role="alert" className="text-error">
            {(error as Error).message}
          </p>
        ) : null}
        {data?.length === 0 ? <p className="py-16 text-center opacity-80">No projects yet. A project holds the passes of one commission and all that is made of them.</p> : null}
        <ul className="grid gap-4 grid-cols-[repeat(auto-fill,minmax(20rem,1fr))]">
          {shown.map((project) => (
            <li key={project.id} className="relative rounded-box border border-neutral bg-base-100 p-3 hover:border-primary">
              <ProjectPicture project={project} />
              <a className="mt-3 flex font-semibold text-base after:absolute after:inset-0" href={`/projects/${project.id}`}>
                <MiddleCut>{project.name}</MiddleCut>
              </a>
              <p className="opacity-80">{facts(project)}</p>
              <p className="opacity-80">
                {project.bodies > 1 ? `${project.readyBodies} of ${project.bodies} bodies ready` : `Ready card ${project.ready} of ${project.lines}`} · {new Date(project.updatedAt).toLocaleDateString(undefined, { day: 'numeric', month: 'short', year: 'numeric' })}
              </p>
              <button
                type="button"
                className="btn btn-ghost btn-sm btn-square absolute right-21 bottom-3 z-10"
                aria-label={project.archived ? `Bring ${project.name} back` : `Archive ${project.name}`}
                title={project.archived ? 'Back among the others' : 'Out of this list until it is asked for; nothing is deleted'}
                onClick={() => void archive(project)}
              >
                {project.archived ? <ArchiveRestore size={15} aria-hidden /> : <Archive size={15} aria-hidden />}
              </button>
              <a className="btn btn-ghost btn-sm btn-square absolute right-12 bottom-3 z-10" aria-label={`Save ${project.name} to a file`} title="Save all of it to one file, to open it on another installation" href={`/api/projects/${project.id}/file`} download>
                <Download size={15} aria-hidden />
              </a>
              <button type="button" className="btn btn-ghost btn-sm btn-square absolute right-3 bottom-3 z-10" aria-label={`Delete ${project.name}`} onClick={() => setDeleting(project)}>
                <Trash2 size={15} aria-hidden />
              </button>
            </li>
          ))}
        </ul>
      </main>
      {creating ? <NewProjectDialog onClose={() => setCreating(false)} /> : null}
      {deleting ? (
        <Dialog title={`Delete ${deleting.name}?`} onClose={() => setDeleting(null)}>
          <p>
            {deleting.passes} passes with {count(deleting.points)} points, all bodies, datums and steps go with it. This cannot be undone.
          </p>
          <div className="flex justify-end gap-2 mt-4">
            <button type="button" className="btn btn-ghost" onClick={() => setDeleting(null)}>
              Keep it
            </button>
            <button type="button" className="btn btn-error" onClick={() => void remove(deleting)}>
              Delete project
            </button>
          </div>
        </Dialog>
      ) : null}
    </div>
  );
}
