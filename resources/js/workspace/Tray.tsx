import { Axis3d, Box, Eye, EyeOff, Layers } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import { api } from '../api/client';
import { count } from '../ui/format';
import { css, MEASURED, passColour } from '../viewport/palette';
import { useView, useWorkspace } from './context';

interface RowProps {
  id: string;
  name: string;
  swatch: string;
  figure: string;
  hint: string;
}

function TrayRow({ id, name, swatch, figure, hint }: RowProps) {
  const { projectId, commands, run } = useWorkspace();
  const hidden = useView((s) => s.hidden[id] ?? false);
  const [editing, setEditing] = useState(false);
  const rename = (value: string) => {
    setEditing(false);
    if (value.trim() !== '' && value !== name) run(() => api.updateProject(projectId, { labels: { [id]: value.trim() } }));
  };
  return (
    <li className={`group flex items-center gap-2 rounded-field px-2 h-7 hover:bg-base-300 ${hidden ? 'opacity-70' : ''}`} title={hint}>
      <span className="size-2.5 shrink-0 rounded-sm" style={{ background: swatch }} aria-hidden />
      {editing ? (
        <input
          className="input input-xs flex-1"
          defaultValue={name}
          aria-label={`New name of ${name}`}
          // biome-ignore lint/a11y/noAutofocus: the field appears where the person has just double-clicked
          autoFocus
          onBlur={(e) => rename(e.target.value)}
          onKeyDown={(e) => (e.key === 'Enter' ? rename(e.currentTarget.value) : e.key === 'Escape' ? setEditing(false) : undefined)}
        />
      ) : (
        <button type="button" className="min-w-0 flex-1 truncate text-left" onDoubleClick={() => setEditing(true)} onKeyDown={(e) => e.key === 'F2' && setEditing(true)}>
          {name}
        </button>
      )}
      <span className="opacity-75">{figure}</span>
      <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={hidden ? `Show ${name}` : `Hide ${name}`} aria-pressed={hidden} onClick={() => commands.toggle(id)}>
        {hidden ? <EyeOff size={13} aria-hidden /> : <Eye size={13} aria-hidden />}
      </button>
    </li>
  );
}

function TrayList({ icon, title, number, ids, children }: { icon: ReactNode; title: string; number: number; ids: string[]; children: ReactNode }) {
  const { commands } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const allHidden = ids.length > 0 && ids.every((id) => hidden[id]);
  return (
    <section className="mt-2">
      <h2 className="flex items-center gap-2 px-2 py-1 text-xs font-semibold opacity-80">
        {icon}
        <span className="flex-1">{title}</span>
        {number}
        {ids.length > 1 ? (
          <button type="button" className="btn btn-ghost btn-xs px-1" onClick={() => commands.setHidden(Object.fromEntries(ids.map((id) => [id, !allHidden])))}>
            {allHidden ? 'show all' : 'hide all'}
          </button>
        ) : null}
      </h2>
      <ul>{children}</ul>
    </section>
  );
}

export function Tray() {
  const { passes, bodies, datums } = useWorkspace().data.snapshot;
  return (
    <aside className="min-h-0 overflow-y-auto border-r border-neutral bg-base-100 p-1" aria-label="Tray">
      <TrayList icon={<Layers size={13} aria-hidden />} title="Passes" number={passes.length} ids={passes.map((p) => p.id)}>
        {passes.map((pass, k) => (
          <TrayRow
            key={pass.id}
            id={pass.id}
            name={pass.name}
            swatch={css(passColour(k))}
            figure={count(pass.kept)}
            hint={`${pass.name}: ${count(pass.kept)} of ${count(pass.points)} points kept${pass.residual === null ? '' : `, residual ${pass.residual.toFixed(3)} mm`}. Double-click or F2 to rename.`}
          />
        ))}
      </TrayList>
      <TrayList icon={<Box size={13} aria-hidden />} title="Bodies" number={bodies.length} ids={bodies.map((b) => b.id)}>
        {bodies.map((body) => (
          <TrayRow key={body.id} id={body.id} name={body.name} swatch={css(MEASURED)} figure={count(body.faces || body.points)} hint={`${body.name}: ${count(body.faces)} faces, ${count(body.points)} points. Double-click or F2 to rename.`} />
        ))}
      </TrayList>
      <TrayList icon={<Axis3d size={13} aria-hidden />} title="Datums" number={datums.length} ids={datums.map((d) => d.id)}>
        {datums.map((datum) => (
          <TrayRow
            key={datum.id}
            id={datum.id}
            name={datum.name}
            swatch={datum.kind === 'cylinder' ? '#d08a74' : '#7fa8d9'}
            figure={datum.kind === 'cylinder' ? `ø ${(2 * datum.radius).toFixed(2)}` : datum.kind === 'point' ? '' : `± ${datum.rms.toFixed(3)}`}
            hint={`${datum.name}: ${datum.kind}, fit error ${datum.rms.toFixed(4)} mm over ${count(datum.points)} places`}
          />
        ))}
      </TrayList>
    </aside>
  );
}
