import { type RefObject, useEffect, useMemo, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client';
import { readGeometry, readMask } from '../viewport/blob';
import { bodyColour, DIVERGING, ownColour, passColour, RAMP } from '../viewport/palette';
import { NOTHING } from '../viewport/marks';
import { SceneItem } from '../viewport/sceneItem';
import { inARow } from '../viewport/sideBySide';
import type { Viewport } from '../viewport/Viewport';
import { useView, useWorkspace } from '../state/context';
import { liesUnder } from './liesUnder';
import { useMaps } from './useMaps';
import { useCut } from './useCut';
import { useDimensions } from './useDimensions';
import { useLevels } from './useLevels';
import { useMeantRims } from './useMeantRims';
import { useProbes } from './useProbes';
import { useSections } from './useSections';
import { useShapes } from './useShapes';
import { useShownBodies } from './useShownBodies';

/** Points held in the browser at most; above it every second, third, ... point of each pass is loaded. */
const MOST_POINTS = 8_000_000;

interface Wanted {
  key: string;
  id: string;
  kind: 'pass' | 'body';
  blob: string;
  every: number;
  mask: string | null;
  transform: readonly number[];
  colour: number;
}

/** Keeps the view's items in step with the project: loads what is new, places what moved, drops what went. */
export function useScene(viewport: RefObject<Viewport | null>): boolean {
  const { data, projectId, store, commands } = useWorkspace();
  const hiddenNow = useView((s) => s.hidden);
  const [loading, setLoading] = useState(false);
  const { datums } = data.snapshot;
  // As a step found or left it, while its details show that.
  const state = useView((s) => s.state);
  const passes = state?.passes ?? data.snapshot.passes;
  const trial = data.trial?.step.state === 'done' ? data.trial : null;
  const showTrial = useView((s) => s.showTrial);
  // What was tried takes the place of the bodies until it is kept, dropped, or switched to before.
  const bodies = useShownBodies();
  // The passes would lie over a body that was just made of them.
  const covered = !state && bodies !== data.snapshot.bodies && bodies.some((b) => !data.snapshot.bodies.some((before) => before.id === b.id));

  // A trial that parts a body shows each part in a colour of its own.
  const isParted = !!trial?.bodies && showTrial && trial.bodies.filter((b) => !data.snapshot.bodies.some((before) => before.id === b.id)).length > 1;
  useEffect(() => {
    if (!isParted) return;
    const { colours } = store.getState();
    store.setState({ colours: 'own' });
    return () => store.setState((s) => (s.colours === 'own' ? { colours } : {}));
  }, [isParted, store]);

  // What a step changed is seen as it was, also if it is hidden now; where nothing of it was there yet, what it was made of is seen: all passes.
  const atStep = state && [...passes, ...bodies].filter((i) => state.touched.includes(i.id)).map((i) => i.id);
  const seen = atStep && atStep.length === 0 ? passes.map((p) => p.id) : atStep;
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say which are seen
  const hidden = useMemo(() => (seen ? { ...hiddenNow, ...Object.fromEntries(seen.map((id) => [id, false])) } : hiddenNow), [hiddenNow, seen?.join()]);

  const only = useView((s) => s.only);
  useEffect(() => {
    const view = viewport.current;
    if (!view) return;
    const every = Math.max(1, Math.ceil(passes.reduce((n, p) => n + (hidden[p.id] ? 0 : p.points), 0) / MOST_POINTS));
    store.setState((s) => (s.standIn === every ? s : { standIn: every }));
    // What was tried and what a step left know nothing of looks.
    const looks = new Map(data.snapshot.bodies.map((b) => [b.id, b.look]));
    const wanted: Wanted[] = [
      ...passes.map((p) => ({ key: `${p.id}:${p.blob}:${p.mask}:${every}`, id: p.id, kind: 'pass' as const, blob: p.blob, every, mask: p.mask, transform: p.transform, colour: passColour(p.nth ?? 0) })),
      ...bodies.map((b, k) => ({ key: `${b.id}:${b.blob}`, id: b.id, kind: 'body' as const, blob: b.blob, every: 1, mask: null, transform: b.transform, colour: ownColour(looks.get(b.id)?.colour) ?? bodyColour(k) })),
    ];
    let live = true;
    const arrange = () => {
      if (live) view.arrange(new Map(wanted.filter((w) => view.has(w.key)).map((w) => [w.key, { transform: w.transform, colour: w.colour, visible: (only ? only.includes(w.id) : !hidden[w.id]) && !(covered && w.kind === 'pass') }])));
    };
    const first = view.isEmpty();
    const missing = wanted.filter((w) => !view.has(w.key) && (only ? only.includes(w.id) : !hidden[w.id]));
    arrange();
    if (missing.length > 0) {
      setLoading(true);
      void Promise.all(
        missing.map(async (w) => {
          const [blob, mask] = await Promise.all([api.blob(projectId, w.blob, w.every), w.mask ? api.blob(projectId, w.mask) : null]);
          if (!live || view.has(w.key)) return;
          const kept = mask ? readMask(mask) : null;
          view.add(w.key, new SceneItem(w.id, w.kind, readGeometry(blob), kept && w.every > 1 ? kept.filter((_, i) => i % w.every === 0) : kept, w.colour));
          arrange();
        }),
      )
        // What came first was fitted alone.
        .then(() => live && first && view.fit())
        .catch((problem: Error) => toast.error(problem.message))
        .finally(() => live && setLoading(false));
    }
    return () => {
      live = false;
    };
  }, [viewport, passes, bodies, data.snapshot.bodies, covered, hidden, only, projectId, store]);

  // Picked pairs and handles show at once where they would bring what moves.
  const movePreview = useView((s) => s.movePreview);
  useEffect(() => {
    if (!movePreview) return;
    const { itemIds, transform, asCopy } = movePreview;
    const show = (by: number[] | null) => (asCopy ? viewport.current?.previewCopies(itemIds, by) : viewport.current?.preview(itemIds, by));
    show(transform);
    return () => show(null);
  }, [movePreview, viewport]);

  const aside = useView((s) => s.aside);
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was just loaded must be put aside too
  useEffect(() => {
    if (aside === null) return;
    viewport.current?.setAside(aside);
    return () => viewport.current?.setAside([]);
  }, [aside, viewport, loading]);

  // Bodies to compare stand in a row; picks would speak of places where they do not stand, so no operation is open meanwhile.
  const sideBySide = useView((s) => s.sideBySide);
  const row = bodies.filter((b) => !hidden[b.id]).map((b) => b.id);
  const rowKey = sideBySide && row.length > 1 ? row.join() : '';
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which bodies, and those that were just loaded must be told too
  useEffect(() => {
    const view = viewport.current;
    if (rowKey === '' || !view) return;
    const boxes = row.flatMap((id) => view.boundsOf([id]) ?? []);
    if (boxes.length < row.length) return;
    inARow(boxes).forEach((by, k) => {
      view.preview([row[k] ?? ''], [1, 0, 0, by, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1]);
    });
    view.fit();
    return () => {
      view.preview(row, null);
      view.fit();
    };
  }, [rowKey, viewport, loading]);

  const artefacts = trial?.artefacts && showTrial ? trial.artefacts : data.snapshot.artefacts;
  useDimensions(viewport, useSections(viewport, artefacts));
  useCut(viewport);
  useProbes(viewport);
  useMeantRims(viewport, bodies);
  useShapes(viewport, artefacts, bodies, loading);
  useLevels(viewport, artefacts, bodies, loading);

  useEffect(() => viewport.current?.setDatums(datums.filter((d) => !hidden[d.id])), [viewport, datums, hidden]);

  const removedShown = useView((s) => s.removedShown);
  // biome-ignore lint/correctness/useExhaustiveDependencies: passes that were just loaded must be told too
  useEffect(() => viewport.current?.showRemoved(removedShown), [viewport, removedShown, passes, loading]);

  // Points that the trial would take away are amber.
  const cut = trial?.passes && showTrial ? trial.passes.filter((p) => p.mask !== null && p.mask !== passes.find((q) => q.id === p.id)?.mask) : [];
  const cutKey = cut.map((p) => p.mask).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says it all
  useEffect(() => {
    if (cutKey === '') return;
    let live = true;
    void Promise.all(
      cut.map(async (p): Promise<[string, Uint8Array]> => {
        const old = passes.find((q) => q.id === p.id)?.mask;
        const [after, before] = await Promise.all([api.blob(projectId, p.mask ?? '').then(readMask), old ? api.blob(projectId, old).then(readMask) : null]);
        const gone = after.map((kept, i) => (kept || (before && !before[i]) ? 0 : 1));
        const every = store.getState().standIn;
        return [p.id, every > 1 ? gone.filter((_, i) => i % every === 0) : gone];
      }),
    )
      .then((gone) => live && viewport.current?.showMarks(new Map(gone)))
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
      viewport.current?.showMarks(NOTHING);
    };
  }, [cutKey, viewport]);

  // Reports on noise and on how passes fit colour them by one of their maps.
  const mapName = useView((s) => s.map);
  const maps = useMaps().filter((m) => m.label === mapName);
  const isSigned = maps.some((m) => m.from < 0);
  const mapKey = maps.map((m) => m.blob).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says it all
  useEffect(() => {
    if (mapKey === '') return;
    let live = true;
    void Promise.all(maps.map(async (m): Promise<[string, Uint8Array]> => [m.target, readMask(await api.blob(projectId, m.blob))]))
      .then((shades) => live && viewport.current?.setShades(new Map(shades), isSigned ? DIVERGING : RAMP))
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
      viewport.current?.setShades(null);
    };
  }, [mapKey, viewport]);

  // What a running capture has seen so far.
  const capture = data.capture;
  const framesSeen = capture ? capture.frames - capture.lost : 0;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a new frame changes the count
  useEffect(() => {
    if (!capture || framesSeen === 0) {
      viewport.current?.setCoverage(null);
      return;
    }
    let live = true;
    api
      .coverage(projectId, capture.id)
      .then((cells) => live && viewport.current?.setCoverage(readGeometry(cells), capture.standsAt))
      // The capture may end between two looks; the next state of the project says so.
      .catch(() => undefined);
    return () => {
      live = false;
    };
  }, [capture?.id, framesSeen, viewport, projectId]);

  // A selection speaks of faces by number: it ends when a body gets others.
  const shapes = bodies.map((b) => b.blob).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: when a blob changes
  useEffect(() => {
    if (store.getState().selection.length > 0) commands.clearGesture();
  }, [shapes]);

  // A new body takes the stage: the passes it was made of step back.
  const bodyCount = data.snapshot.bodies.length;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the number of bodies changes
  useEffect(() => {
    if (bodyCount > 0) commands.setHidden(Object.fromEntries(data.snapshot.passes.map((p) => [p.id, true])));
    else commands.setHidden(Object.fromEntries(data.snapshot.passes.map((p) => [p.id, false])));
  }, [bodyCount]);

  // What is laid over another body would be seen through it: that one steps back too, and comes again if the other goes.
  const known = useRef<readonly string[] | null>(null);
  const stepped = useRef<string[]>([]);
  const ids = data.snapshot.bodies.map((b) => b.id);
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when bodies come or go
  useEffect(() => {
    const set = (hidden: boolean) => commands.setHidden(Object.fromEntries(stepped.current.map((id) => [id, hidden])));
    if (known.current?.some((id) => !ids.includes(id))) {
      set(false);
      stepped.current = [];
    }
    const under = known.current ? liesUnder(data.steps, data.snapshot.bodies, known.current) : [];
    if (under.length > 0) {
      stepped.current = under;
      set(true);
    }
    known.current = ids;
  }, [ids.join()]);
  return loading;
}
