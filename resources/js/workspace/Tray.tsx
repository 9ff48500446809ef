import { Axis3d, Box, ChevronDown, ChevronRight, Eye, EyeOff, Layers, Lock, LockOpen, Mountain, PackageCheck, Search, Shapes, Spline, Trash2 } from 'lucide-react';
import { type ReactNode, useState } from 'react';
import { api } from '../api/client';
import type { DatumItem, PassItem } from '../api/types';
import { count } from '../ui/format';
import { bodyColour, css, MEASURED, passColour, SECTION, ownColour } from '../viewport/palette';
import { SHAPE_COLOURS } from '../viewport/shapeLayer';
import { useView, useWorkspace } from '../state/context';
import { grouped } from './groups';
import { RowMenu, TrayRow } from './TrayRow';

function datumFigure(datum: DatumItem): string {
  if (datum.kind === 'cylinder' || datum.kind === 'sphere') return `ø ${(2 * datum.radius).toFixed(2)} mm`;
  if (datum.kind === 'cone') return `${datum.halfAngleDeg.toFixed(2)}° each side`;
  // As many picks as fix it have no error to tell.
  return datum.points > (datum.kind === 'line' ? 2 : 3) ? `± ${datum.rms.toFixed(3)} mm` : '';
}

/** So many rows are taken in at a glance. */
const FILTER_FROM = 12;

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

/** Passes of a kind under one heading, to fold away, hide, lock or discard together. */
function GroupHead({ name, ids }: { name: string; ids: string[] }) {
  const { commands, data, projectId, run, store } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const folded = useView((s) => s.folded[name] ?? false);
  const allHidden = ids.every((id) => hidden[id]);
  const { passes } = data.snapshot;
  const allLocked = ids.every((id) => passes.find((p) => p.id === id)?.locked);
  const lock = () => run(() => api.updateProject(projectId, { locked: passes.filter((p) => (ids.includes(p.id) ? !allLocked : p.locked)).map((p) => p.id) }));
  return (
    <div className="group flex h-7 items-center gap-1 rounded-field px-1 hover:bg-base-300">
      <button type="button" className="flex min-w-0 flex-1 items-center gap-1 text-left" aria-expanded={!folded} onClick={() => store.setState((s) => ({ folded: { ...s.folded, [name]: !folded } }))}>
        {folded ? <ChevronRight size={13} aria-hidden /> : <ChevronDown size={13} aria-hidden />}
        <span className="truncate font-semibold">{name}</span>
      </button>
      <span className="opacity-75">{ids.length}</span>
      <RowMenu
        label={`More for all of ${name}`}
        choices={[
          {
            label: 'Show only these',
            icon: <Eye size={13} aria-hidden />,
            does: () =>
              commands.showOnly(
                ids,
                [...passes, ...data.snapshot.bodies, ...data.snapshot.datums].map((i) => i.id),
              ),
          },
          { label: allLocked ? 'Unlock all' : 'Lock all', icon: allLocked ? <LockOpen size={13} aria-hidden /> : <Lock size={13} aria-hidden />, does: lock },
          { label: `Discard ${ids.length}`, icon: <Trash2 size={13} aria-hidden />, does: () => run(() => api.addStep(projectId, 'discard', { on: ids })), hint: 'Undo brings them back' },
        ]}
      />
      <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={allHidden ? `Show all of ${name}` : `Hide all of ${name}`} aria-pressed={allHidden} onClick={() => commands.setHidden(Object.fromEntries(ids.map((id) => [id, !allHidden])))}>
        {allHidden ? <EyeOff size={13} aria-hidden /> : <Eye size={13} aria-hidden />}
      </button>
    </div>
  );
}

/** What steps give besides geometry, kind by kind, and whether the view draws it. */
const ARTEFACTS = [
  { kind: 'section', title: 'Sections, outlines', one: 'curve', icon: Spline, swatch: SECTION, drawn: true },
  { kind: 'shapes', title: 'Shapes', one: 'shape', icon: Shapes, swatch: SHAPE_COLOURS[0], drawn: true },
  { kind: 'height-map', title: 'Height maps', one: 'picture', icon: Mountain, swatch: MEASURED, drawn: false },
  { kind: 'delivery', title: 'Deliveries', one: 'file', icon: PackageCheck, swatch: MEASURED, drawn: false },
] as const;

export function Tray() {
  const { data, store } = useWorkspace();
  const [filter, setFilter] = useState('');
  const wanted = <T extends { name: string }>(items: T[]) => items.filter((i) => i.name.toLowerCase().includes(filter.trim().toLowerCase()));
  const passes = wanted(data.snapshot.passes);
  const bodies = wanted(data.snapshot.bodies);
  const datums = wanted(data.snapshot.datums);
  const artefacts = wanted(data.snapshot.artefacts);
  const many = data.snapshot.passes.length + data.snapshot.bodies.length + data.snapshot.datums.length + data.snapshot.artefacts.length;
  const hidden = useView((s) => s.hiddenOutside);
  const folded = useView((s) => s.folded);
  const colours = useView((s) => s.colours);
  const passRow = (pass: PassItem) => (
    <TrayRow
      key={pass.id}
      id={pass.id}
      ids={passes.map((p) => p.id)}
      locked={pass.locked ?? false}
      copies
      name={pass.name}
      swatch={css(passColour(pass.nth ?? 0))}
      figure={count(pass.kept)}
      removed={pass.points - pass.kept}
      hint={`${pass.name}: ${count(pass.kept)} of ${count(pass.points)} points kept${pass.residual === null ? '' : `, residual ${pass.residual.toFixed(3)} mm`}. Double-click or F2 renames, dragging or Alt+arrow moves.`}
    />
  );
  return (
    <div className="min-h-0 overflow-y-auto border-r border-neutral bg-base-100 p-1">
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
        {grouped(passes, FILTER_FROM).map((group) =>
          group.name === '' ? (
            group.rows.map(passRow)
          ) : (
            <li key={group.name}>
              <GroupHead name={group.name} ids={group.rows.map((p) => p.id)} />
              {folded[group.name] ? null : <ul className="pl-2">{group.rows.map(passRow)}</ul>}
            </li>
          ),
        )}
      </TrayList>
      <TrayList icon={<Box size={13} aria-hidden />} title="Bodies" number={bodies.length} ids={bodies.map((b) => b.id)}>
        {bodies.map((body) => (
          <TrayRow
            key={body.id}
            id={body.id}
            ids={bodies.map((b) => b.id)}
            locked={null}
            copies
            name={body.name}
            swatch={css(colours === 'own' ? (ownColour(body.look?.colour) ?? bodyColour(data.snapshot.bodies.indexOf(body))) : MEASURED)}
            figure={count(body.faces - (body.quads ?? 0) || body.points)}
            hint={`${body.name}: ${count(body.faces - (body.quads ?? 0))} faces${body.quads ? `, ${count(body.quads)} of them four-sided` : ''}, ${count(body.points)} points. Double-click or F2 renames, dragging or Alt+arrow moves.`}
          />
        ))}
      </TrayList>
      <TrayList icon={<Axis3d size={13} aria-hidden />} title="Datums" number={datums.length} ids={datums.map((d) => d.id)}>
        {datums.map((datum) => (
          <TrayRow
            key={datum.id}
            id={datum.id}
            ids={datums.map((d) => d.id)}
            locked={null}
            copies={false}
            name={datum.name}
            swatch={datum.kind === 'plane' || datum.kind === 'point' ? '#7fa8d9' : '#d08a74'}
            figure={datumFigure(datum)}
            hint={`${datum.name}: ${datum.kind}, ${datum.parents.length > 0 ? `made of ${datum.parents.join(' and ')}` : `fit error ${datum.rms.toFixed(4)} mm over ${count(datum.points)} ${datum.points === 1 ? 'place' : 'places'}`}`}
          />
        ))}
      </TrayList>
      {ARTEFACTS.map(({ kind, title, one, icon: Icon, swatch, drawn }) => {
        const some = artefacts.filter((a) => a.kind === kind);
        if (some.length === 0) return null;
        return (
          <TrayList key={kind} icon={<Icon size={13} aria-hidden />} title={title} number={some.length} ids={drawn ? some.map((a) => a.id) : []}>
            {some.map((a) => {
              const figure = `${count(a.parts)} ${a.parts === 1 ? one : `${one}s`}`;
              return <TrayRow key={a.id} id={a.id} ids={some.map((other) => other.id)} locked={null} copies={false} drawn={drawn} name={a.name} swatch={css(swatch)} figure={figure} hint={`${a.name}: ${figure}. Double-click or F2 renames, dragging or Alt+arrow moves.`} />;
            })}
          </TrayList>
        );
      })}
    </div>
  );
}
