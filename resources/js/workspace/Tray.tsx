import { Axis3d, Box, Eye, EyeOff, Layers, Lock, LockOpen, Scissors, Search } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import { api } from '../api/client';
import { count } from '../ui/format';
import { css, MEASURED, passColour } from '../viewport/palette';
import { useView, useWorkspace } from './context';

/** So many rows are taken in at a glance. */
const FILTER_FROM = 12;

interface RowProps {
  id: string;
  /** all ids of the list, in its order */
  ids: string[];
  /** null for what cannot be locked */
  locked: boolean | null;
  name: string;
  swatch: string;
  figure: string;
  hint: string;
  /** points that were cut away and can be shown */
  removed?: number;
}

function TrayRow({ id, ids, locked, name, swatch, figure, hint, removed = 0 }: RowProps) {
  const { projectId, commands, run, data, store } = useWorkspace();
  const removedShown = useView((s) => s.removedShown[id] ?? false);
  const { passes, bodies, datums } = data.snapshot;
  const all = [...passes, ...bodies, ...datums].map((i) => i.id);
  const lock = () => run(() => api.updateProject(projectId, { locked: passes.filter((p) => (p.id === id ? !p.locked : p.locked)).map((p) => p.id) }));
  /** Puts a row of the same list in this one's place. */
  const place = (moved: string, at: string) => {
    if (moved === at || !ids.includes(moved)) return;
    const list = ids.filter((i) => i !== moved);
    list.splice(ids.indexOf(at), 0, moved);
    run(() => api.updateProject(projectId, { tray_order: all.flatMap((i) => (i === ids[0] ? list : ids.includes(i) ? [] : [i])) }));
  };
  const shift = (by: number) => {
    const at = ids[ids.indexOf(id) + by];
    if (at) place(id, at);
  };
  const hidden = useView((s) => s.hidden[id] ?? false);
  const [editing, setEditing] = useState(false);
  const rename = (value: string) => {
    setEditing(false);
    if (value.trim() !== '' && value !== name) run(() => api.updateProject(projectId, { labels: { [id]: value.trim() } }));
  };
  return (
    <li
      className={`group flex items-center gap-1.5 rounded-field px-2 h-7 hover:bg-base-300 ${hidden ? 'opacity-70' : ''}`}
      title={hint}
      draggable={!editing}
      onDragStart={(e) => e.dataTransfer.setData('text/plain', id)}
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        place(e.dataTransfer.getData('text/plain'), id);
      }}
    >
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
        <button type="button" className="min-w-0 flex-1 truncate text-left" onDoubleClick={() => setEditing(true)} onKeyDown={(e) => {
            if (e.key === 'F2') setEditing(true);
            if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) shift(e.key === 'ArrowUp' ? -1 : 1);
          }}
        >
          {name}
        </button>
      )}
      <span className="opacity-75">{figure}</span>
      {ids.length > 1 ? (
        <button type="button" className="btn btn-ghost btn-xs hidden px-1 group-focus-within:inline-flex group-hover:inline-flex" aria-label={`Show only ${name}`} onClick={() => commands.showOnly([id], all)}>
          only
        </button>
      ) : null}
      {removed > 0 ? (
        <button type="button" className={`btn btn-ghost btn-xs btn-square ${removedShown ? 'text-warning' : 'hidden group-focus-within:inline-flex group-hover:inline-flex'}`} aria-label={`Show removed points of ${name}`} aria-pressed={removedShown} title={`${count(removed)} points were cut away; show them dimmed`} onClick={() => store.setState((s) => ({ removedShown: { ...s.removedShown, [id]: !removedShown } }))}>
          <Scissors size={13} aria-hidden />
        </button>
      ) : null}
      {locked === null ? null : (
        <button type="button" className={`btn btn-ghost btn-xs btn-square ${locked ? 'text-warning' : 'hidden group-focus-within:inline-flex group-hover:inline-flex'}`} aria-label={locked ? `Unlock ${name}` : `Lock ${name}`} aria-pressed={locked} title={locked ? 'Locked: registering does not move it' : 'Lock: registering will not move it'} onClick={lock}>
          {locked ? <Lock size={13} aria-hidden /> : <LockOpen size={13} aria-hidden />}
        </button>
      )}
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
  const { data, store } = useWorkspace();
  const [filter, setFilter] = useState('');
  const wanted = <T extends { name: string }>(items: T[]) => items.filter((i) => i.name.toLowerCase().includes(filter.trim().toLowerCase()));
  const passes = wanted(data.snapshot.passes);
  const bodies = wanted(data.snapshot.bodies);
  const datums = wanted(data.snapshot.datums);
  const many = data.snapshot.passes.length + data.snapshot.bodies.length + data.snapshot.datums.length;
  const hidden = useView((s) => s.hiddenOutside);
  return (
    <aside className="min-h-0 overflow-y-auto border-r border-neutral bg-base-100 p-1" aria-label="Tray">
      {hidden ? (
        <p className="m-1 flex items-center gap-1 rounded-field border border-warning p-2">
          <EyeOff size={13} aria-hidden />
          <span className="flex-1">{count(Object.values(hidden.counts).reduce((a, b) => a + b, 0))} outside the crop box are hidden</span>
          <button type="button" className="btn btn-xs font-normal" onClick={() => store.setState({ hiddenOutside: null })}>
            Show
          </button>
        </p>
      ) : null}
      {many > FILTER_FROM ? (
        <label className="input input-sm m-1 flex w-auto items-center gap-1">
          <Search size={13} aria-hidden />
          <input className="grow" placeholder="Filter by name" aria-label="Filter the tray by name" value={filter} onChange={(e) => setFilter(e.target.value)} />
        </label>
      ) : null}
      <TrayList icon={<Layers size={13} aria-hidden />} title="Passes" number={passes.length} ids={passes.map((p) => p.id)}>
        {passes.map((pass) => (
          <TrayRow
            key={pass.id}
            id={pass.id}
            ids={passes.map((p) => p.id)}
            locked={pass.locked}
            name={pass.name}
            swatch={css(passColour(pass.nth))}
            figure={count(pass.kept)}
            removed={pass.points - pass.kept}
            hint={`${pass.name}: ${count(pass.kept)} of ${count(pass.points)} points kept${pass.residual === null ? '' : `, residual ${pass.residual.toFixed(3)} mm`}. Double-click or F2 renames, dragging or Alt+arrow moves.`}
          />
        ))}
      </TrayList>
      <TrayList icon={<Box size={13} aria-hidden />} title="Bodies" number={bodies.length} ids={bodies.map((b) => b.id)}>
        {bodies.map((body) => (
          <TrayRow key={body.id} id={body.id} ids={bodies.map((b) => b.id)} locked={null} name={body.name} swatch={css(MEASURED)} figure={count(body.faces || body.points)} hint={`${body.name}: ${count(body.faces)} faces, ${count(body.points)} points. Double-click or F2 renames, dragging or Alt+arrow moves.`} />
        ))}
      </TrayList>
      <TrayList icon={<Axis3d size={13} aria-hidden />} title="Datums" number={datums.length} ids={datums.map((d) => d.id)}>
        {datums.map((datum) => (
          <TrayRow
            key={datum.id}
            id={datum.id}
            ids={datums.map((d) => d.id)}
            locked={null}
            name={datum.name}
            swatch={datum.kind === 'cylinder' ? '#d08a74' : '#7fa8d9'}
            figure={datum.kind === 'cylinder' ? `ø ${(2 * datum.radius).toFixed(2)} mm` : datum.kind === 'point' ? '' : `± ${datum.rms.toFixed(3)} mm`}
            hint={`${datum.name}: ${datum.kind}, fit error ${datum.rms.toFixed(4)} mm over ${count(datum.points)} places`}
          />
        ))}
      </TrayList>
    </aside>
  );
}
