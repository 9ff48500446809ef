import { Copy, Ellipsis, Eye, EyeOff, Focus, Info, Lock, LockOpen, Scissors, Trash2 } from 'lucide-react';
import { type ReactNode, useRef, useState } from 'react';
import { api } from '../api/client';
import { count } from '../ui/format';
import { chosenAfter, madeOf } from './chosen';
import { useView, useWorkspace } from '../state/context';
import { MiddleCut } from '../ui/MiddleCut';

export interface RowProps {
  id: string;
  /** all ids of the list, in its order */
  ids: string[];
  /** null for what cannot be locked */
  locked: boolean | null;
  /** whether a working copy can be made of it */
  copies: boolean;
  name: string;
  swatch: string;
  figure: string;
  hint: string;
  /** points that were cut away and can be shown */
  removed?: number;
  /** whether it is drawn in the view, and can be hidden there */
  drawn?: boolean;
}

interface Choice {
  label: string;
  icon: ReactNode;
  does: () => void;
  hint?: string;
  /** what else there is to know before */
  note?: string;
}

/** A button that opens a short list of things to do with a row. */
export function RowMenu({ label, choices }: { label: string; choices: Choice[] }) {
  const [open, setOpen] = useState(false);
  const box = useRef<HTMLSpanElement>(null);
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: only hears that the focus has left the menu, or Escape within it
    <span ref={box} className="relative" onBlur={(e) => !box.current?.contains(e.relatedTarget) && setOpen(false)} onKeyDown={(e) => e.key === 'Escape' && setOpen(false)}>
      <button type="button" className={`btn btn-ghost btn-xs btn-square ${open ? '' : 'hidden group-focus-within:inline-flex group-hover:inline-flex'}`} aria-label={label} aria-expanded={open} onClick={() => setOpen(!open)}>
        <Ellipsis size={13} aria-hidden />
      </button>
      {open ? (
        <ul className="menu absolute right-0 top-6 z-20 w-42 rounded-box border border-neutral bg-base-100 p-1 shadow-lg" aria-label={label}>
          {choices.map((c) => (
            <li key={c.label}>
              <button
                type="button"
                title={c.hint}
                onClick={() => {
                  setOpen(false);
                  c.does();
                }}
              >
                {c.icon}
                <span>
                  {c.label}
                  {c.note ? <span className="block whitespace-normal text-xs text-warning">{c.note}</span> : null}
                </span>
              </button>
            </li>
          ))}
        </ul>
      ) : null}
    </span>
  );
}

/** One pass, body or datum: swatch, name, figure, and what can be done with it. */
export function TrayRow({ id, ids, locked, copies, name, swatch, figure, hint, removed = 0, drawn = true }: RowProps) {
  const { projectId, commands, run, data, store } = useWorkspace();
  const removedShown = useView((s) => s.removedShown[id] ?? false);
  const { passes, bodies, datums } = data.snapshot;
  const all = [...passes, ...bodies, ...datums].map((i) => i.id);
  const lock = () => run(() => api.updateProject(projectId, { locked: passes.filter((p) => (p.id === id ? !p.locked : p.locked)).map((p) => p.id) }));
  const copy = () =>
    run(async () => {
      await api.addStep(projectId, 'copy', { on: [id] });
      // The copy takes the original's place in the view.
      commands.setHidden({ [id]: true });
    });
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
  // What was marked may have gone since.
  const chosen = useView((s) => s.chosen).filter((c) => all.includes(c));
  // A menu of a marked row speaks of all that are marked.
  const meant = chosen.includes(id) ? [...chosen] : [id];
  const many = meant.length > 1;
  const orphans = madeOf(meant, datums);
  const discard = () => {
    store.setState({ chosen: [] });
    run(() => api.addStep(projectId, 'discard', { on: meant }));
  };
  const choices: Choice[] = [
    ...(copies && !many ? [{ label: 'Facts', icon: <Info size={13} aria-hidden />, does: () => store.setState({ openItem: id, openStep: null }), hint: 'Its size, area, volume, evidence, files, and what made it' }] : []),
    ...(drawn ? [{ label: many ? `Show only these ${meant.length}` : 'Show only this', icon: <Focus size={13} aria-hidden />, does: () => commands.showOnly(meant, all) }] : []),
    ...(many ? [{ label: hidden ? `Show ${meant.length}` : `Hide ${meant.length}`, icon: hidden ? <Eye size={13} aria-hidden /> : <EyeOff size={13} aria-hidden />, does: () => commands.setHidden(Object.fromEntries(meant.map((m) => [m, !hidden]))) }] : []),
    ...(locked === null ? [] : [{ label: locked ? 'Unlock' : 'Lock', icon: locked ? <LockOpen size={13} aria-hidden /> : <Lock size={13} aria-hidden />, does: lock, hint: 'Registering does not move what is locked' }]),
    ...(copies ? [{ label: 'Work on a copy', icon: <Copy size={13} aria-hidden />, does: copy, hint: 'A body of its own; this one stays as it is, out of sight' }] : []),
    { label: many ? `Discard ${meant.length}` : 'Discard', icon: <Trash2 size={13} aria-hidden />, does: discard, hint: 'Takes it out of the project; Undo brings it back', ...(orphans ? { note: `${orphans} was made of it and stays as it is` } : {}) },
  ];
  return (
    <li
      className={`group flex items-center gap-1.5 rounded-field px-2 h-7 hover:bg-base-300 ${hidden ? 'text-base-content/70' : ''} ${chosen.includes(id) ? 'outline-1 -outline-offset-1 outline-base-content/60' : ''}`}
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
        <button
          type="button"
          className="flex min-w-0 flex-1 text-left"
          aria-pressed={chosen.includes(id)}
          onClick={(e) => store.setState({ chosen: chosenAfter(chosen, ids, id, { ctrl: e.ctrlKey || e.metaKey, shift: e.shiftKey }) })}
          onDoubleClick={() => setEditing(true)}
          onKeyDown={(e) => {
            if (e.key === 'F2') setEditing(true);
            if (e.altKey && (e.key === 'ArrowUp' || e.key === 'ArrowDown')) shift(e.key === 'ArrowUp' ? -1 : 1);
          }}
        >
          <MiddleCut>{name}</MiddleCut>
        </button>
      )}
      <span className="opacity-75">{figure}</span>
      {removed > 0 ? (
        <button
          type="button"
          className={`btn btn-ghost btn-xs btn-square ${removedShown ? 'text-warning' : 'hidden group-focus-within:inline-flex group-hover:inline-flex'}`}
          aria-label={`Show removed points of ${name}`}
          aria-pressed={removedShown}
          title={`${count(removed)} points were cut away; show them dimmed`}
          onClick={() => store.setState((s) => ({ removedShown: { ...s.removedShown, [id]: !removedShown } }))}
        >
          <Scissors size={13} aria-hidden />
        </button>
      ) : null}
      <RowMenu label={`More for ${name}`} choices={choices} />
      {locked ? (
        <button type="button" className="btn btn-ghost btn-xs btn-square text-warning" aria-label={`Unlock ${name}`} title="Locked: registering does not move it" onClick={lock}>
          <Lock size={13} aria-hidden />
        </button>
      ) : null}
      {drawn ? (
        <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={hidden ? `Show ${name}` : `Hide ${name}`} aria-pressed={hidden} onClick={() => commands.toggle(id)}>
          {hidden ? <EyeOff size={13} aria-hidden /> : <Eye size={13} aria-hidden />}
        </button>
      ) : null}
    </li>
  );
}
