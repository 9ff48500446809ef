import { useEffect, useRef, useState } from 'react';
import { api } from '../api/client';
import type { Hit, ScreenPoint } from '../tools/events';
import { niceLength } from '../ui/format';
import { isDrawn, type ViewState } from '../state/view/store';
import { listen } from '../viewport/pointer';
import type { StandardView } from '../viewport/ViewCamera';
import { Viewport } from '../viewport/Viewport';
import { useUndo } from '../features/operations/undoing';
import { useView, useWorkspace } from '../state/context';
import { noiseRange } from './noiseRange';
import { useScene } from './useScene';
import { useShownBodies } from './useShownBodies';
import { useTools } from './useTools';
import { ViewNote } from './ViewNote';
import { ViewSwitches } from './ViewSwitches';

const VIEWS: { view: StandardView; label: string; key: string; cell: string }[] = [
  { view: 'top', label: 'Top', key: '5', cell: 'col-start-2 row-start-1' },
  { view: 'left', label: 'Left', key: '3', cell: 'col-start-1 row-start-2' },
  { view: 'front', label: 'Front', key: '1', cell: 'col-start-2 row-start-2' },
  { view: 'right', label: 'Right', key: '4', cell: 'col-start-3 row-start-2' },
  { view: 'bottom', label: 'Bottom', key: '6', cell: 'col-start-2 row-start-3' },
  { view: 'back', label: 'Back', key: '2', cell: 'col-start-3 row-start-3' },
];

declare global {
  interface Window {
    /** for browser tests: where a project point is in the view */
    emberstoneView?: { project: (point: [number, number, number], itemId?: string) => ScreenPoint; pick: (at: ScreenPoint) => Hit | undefined };
  }
}

/** Whether the open tool has something that can be taken back before a step is undone. */
const holdsSomething = (view: ViewState): boolean => view.picks.length > 0 || view.selection.length > 0 || view.rims.pending !== null || view.rims.closing.before !== null;

/** Over two partners side by side: which half stays, and which moves. */
function Halves() {
  const { data } = useWorkspace();
  const aside = useView((s) => s.aside);
  const only = useView((s) => s.only);
  if (!aside || aside.length === 0) return null;
  const nameOf = (ids: readonly string[]) => {
    const names = [...data.snapshot.passes, ...data.snapshot.bodies].filter((item) => ids.includes(item.id)).map((item) => item.name);
    return names.length === 1 ? (names[0] ?? '') : `${names.length} together`;
  };
  const stays = only?.filter((id) => !aside.includes(id)) ?? [];
  return (
    <div className="pointer-events-none absolute inset-x-0 bottom-24 grid grid-cols-2 text-center" aria-hidden>
      <span>
        <span className="rounded-full bg-base-100/90 px-3 py-1">{stays.length > 0 ? `stays: ${nameOf(stays)}` : 'stays'}</span>
      </span>
      <span>
        <span className="rounded-full bg-base-100/90 px-3 py-1">moves: {nameOf(aside)} · drag here turns it alone</span>
      </span>
    </div>
  );
}

export function ViewPane() {
  const { viewport, store, commands, data, projectId, run } = useWorkspace();
  const host = useRef<HTMLDivElement>(null);
  const overlay = useRef<SVGPolylineElement>(null);
  const lens = useRef<HTMLCanvasElement>(null);
  const [scale, setScale] = useState({ px: 80, mm: 20 });
  const [hover, setHover] = useState<Hit | undefined>();
  const [lost, setLost] = useState(false);
  /** the middle of the view is marked once somebody picks there */
  const [middle, setMiddle] = useState(false);
  const tools = useTools(viewport, overlay);
  const live = useRef(tools);
  live.current = tools;

  useEffect(() => {
    if (!host.current) return;
    const view = new Viewport(host.current);
    viewport.current = view;
    view.onDraw = (mmPerPixel) => {
      const mm = niceLength(60 * mmPerPixel);
      setScale((old) => (old.mm === mm && Math.abs(old.px - mm / mmPerPixel) < 0.5 ? old : { mm, px: mm / mmPerPixel }));
    };
    view.onLost = setLost;
    view.onShare = (share) => store.setState((s) => (s.shareDrawn === share ? s : { shareDrawn: share }));
    window.emberstoneView = { project: (p, itemId) => view.project(p, itemId), pick: (at) => view.pick(at) };
    const stop = listen(host.current, view, {
      draws: (at) => live.current.draws(at),
      send: () => live.current.send,
      pick: (at) => view.pick(at),
      double: () => live.current.double,
      hover: (hit, at) => {
        setHover(hit);
        if (at) live.current.hover?.(at);
        if (lens.current && live.current.picks && at) view.magnify(at, lens.current, 5);
      },
    });
    return () => {
      stop();
      view.dispose();
      viewport.current = null;
    };
  }, [viewport, store]);
  const loading = useScene(viewport);
  // What the pointer was on may be gone, hidden or replaced: nothing is told of it until the pointer moves again.
  const hidden = useView((s) => s.hidden);
  const shown = useShownBodies();
  // biome-ignore lint/correctness/useExhaustiveDependencies: when what is shown changes
  useEffect(() => setHover(undefined), [hidden, shown]);
  const undo = useUndo();

  useEffect(() => {
    // Everything that a click can pick can be picked by turning the view until it is in the middle.
    const pickInMiddle = () => {
      const view = viewport.current;
      const box = host.current;
      const { send } = live.current;
      if (!view || !box || !send) return;
      const at = { x: box.clientWidth / 2, y: box.clientHeight / 2 };
      send({ type: 'down', at });
      const hit = view.pick(at);
      send({ type: 'up', at, ...(hit ? { hit } : {}) });
      setMiddle(true);
    };
    const key = (e: KeyboardEvent) => {
      if (e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement || e.target instanceof HTMLDialogElement) return;
      if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'z') {
        e.preventDefault();
        if (e.shiftKey) run(() => api.redo(projectId));
        else if (holdsSomething(store.getState())) live.current.sendKey({ type: 'removeLast' });
        else undo();
      } else if ((e.ctrlKey || e.metaKey) && e.key.toLowerCase() === 'k') {
        e.preventDefault();
        store.setState({ overlay: 'find' });
      } else if (e.ctrlKey || e.metaKey || e.altKey || store.getState().overlay) return;
      else if (e.key === '?') store.setState({ overlay: 'keys' });
      else if (e.key === 'p') store.setState((s) => ({ parallel: !s.parallel }));
      else if (e.key === 'c') commands.nextColours();
      else if (e.key === 'f') viewport.current?.fit();
      else if (e.key === 'Escape') {
        const { pending } = store.getState().rims;
        live.current.sendKey({ type: 'cancel' });
        // One thing at a time: details, a stretch that waits, what was picked, the tool.
        if (pending) return;
        if (store.getState().openStep !== null || store.getState().openItem !== null) {
          store.setState({ openStep: null, openItem: null });
          return;
        }
        if (store.getState().picks.length + store.getState().selection.length > 0 || store.getState().selectTool) commands.dropPicks();
        else commands.openOperation(null);
      } else if (e.key === 'm') pickInMiddle();
      else if (e.key === 'Backspace') live.current.sendKey({ type: 'removeLast' });
      else if (e.key === 'Enter' && !(e.target instanceof HTMLButtonElement)) live.current.sendKey({ type: 'complete' });
      else {
        const view = VIEWS.find((v) => v.key === e.key);
        if (view) viewport.current?.look(view.view);
      }
    };
    window.addEventListener('keydown', key);
    return () => window.removeEventListener('keydown', key);
  }, [viewport, store, commands, run, projectId, undo]);

  const drawing = useView((s) => isDrawn(s.selectTool));
  const parallel = useView((s) => s.parallel);
  const colours = useView((s) => s.colours);
  const noiseTo = noiseRange(data.snapshot.bodies) ?? 1;
  useEffect(() => viewport.current?.setParallel(parallel), [viewport, parallel]);
  useEffect(() => viewport.current?.setColours(colours, noiseTo), [viewport, colours, noiseTo]);
  const missed = useView((s) => s.rims.missed);
  const thin = useView((s) => s.thin);
  useEffect(() => viewport.current?.setLeastSupport(thin), [viewport, thin]);
  const empty = data.snapshot.passes.length + data.snapshot.bodies.length === 0 && data.capture === null;
  return (
    <main className="relative min-h-0 min-w-0 bg-[radial-gradient(circle_at_50%_35%,var(--color-neutral),var(--color-base-200))]" aria-label="View">
      <div ref={host} data-view className={`absolute inset-0 touch-none ${drawing ? 'cursor-crosshair' : ''}`} />
      <svg className="pointer-events-none absolute inset-0 h-full w-full" aria-hidden>
        <polyline ref={overlay} fill="rgb(224 176 76 / 0.15)" stroke="#e0b04c" strokeWidth={1.5} />
      </svg>
      {missed ? (
        <div className="pointer-events-none absolute -translate-x-1/2 -translate-y-1/2 text-center text-xs text-warning" style={{ left: missed.x, top: missed.y }} role="status">
          <span className="block text-lg leading-none" aria-hidden>
            ×
          </span>
          No rim within 12 pixels
        </div>
      ) : null}
      {tools.picks && tools.picks !== 'selection' && tools.picks !== 'box' ? (
        <div className={`pointer-events-none absolute right-3 top-3 overflow-hidden rounded-full border-2 border-base-content/50 ${hover ? '' : 'invisible'}`} aria-hidden>
          <canvas ref={lens} width={130} height={130} />
          <span className="absolute left-1/2 top-1/2 size-2 -translate-x-1/2 -translate-y-1/2 rounded-full border border-warning" />
        </div>
      ) : null}
      {lost ? (
        <p role="alert" className="absolute inset-x-8 top-1/3 rounded-box border border-warning bg-base-100 p-3 text-center">
          The graphics card has dropped the picture; it comes back by itself as a rule. Nothing is lost: all work is on the server.{' '}
          <button type="button" className="link" onClick={() => window.location.reload()}>
            Reload the page
          </button>
        </p>
      ) : null}
      {middle && tools.send ? (
        <span className="pointer-events-none absolute left-1/2 top-1/2 -translate-x-1/2 -translate-y-1/2 text-lg leading-none text-warning" aria-hidden>
          +
        </span>
      ) : null}
      <Halves />
      <div id="view-aside" className="pointer-events-none absolute right-3 top-3 *:pointer-events-auto" />
      <ViewNote hover={hover} loading={loading} empty={empty} />
      <div className="absolute bottom-3 left-3 flex items-end gap-4">
        <div className="grid grid-cols-3 gap-0.5 rounded-box bg-base-100/85 p-1" role="group" aria-label="Standard views">
          {VIEWS.map((v) => (
            <button key={v.view} type="button" className={`btn btn-ghost btn-xs font-normal ${v.cell}`} title={`${v.label} view (${v.key})`} onClick={() => viewport.current?.look(v.view)}>
              {v.label}
            </button>
          ))}
          <button type="button" className="btn btn-ghost btn-xs col-start-1 row-start-3 font-normal" title="Fit everything (F)" onClick={() => viewport.current?.fit()}>
            Fit
          </button>
        </div>
        <ViewSwitches />
        <div className="pb-1 leading-none" title={`${scale.mm} mm at the middle of the view`}>
          <div className="h-1.5 border-x border-b border-base-content/70" style={{ width: scale.px }} />
          <span className="text-xs">{scale.mm >= 1000 ? `${scale.mm / 1000} m` : `${scale.mm} mm`}</span>
        </div>
      </div>
    </main>
  );
}
