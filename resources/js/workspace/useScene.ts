import { type RefObject, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client';
import { readGeometry, readMask } from '../viewport/blob';
import { passColour } from '../viewport/palette';
import { SceneItem } from '../viewport/sceneItem';
import type { Viewport } from '../viewport/Viewport';
import { useView, useWorkspace } from './context';

interface Wanted {
  key: string;
  id: string;
  kind: 'pass' | 'body';
  blob: string;
  mask: string | null;
  transform: readonly number[];
  colour: number;
}

/** Keeps the view's items in step with the project: loads what is new, places what moved, drops what went. */
export function useScene(viewport: RefObject<Viewport | null>): boolean {
  const { data, projectId } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const [loading, setLoading] = useState(false);
  const { passes, bodies, datums } = data.snapshot;

  useEffect(() => {
    const view = viewport.current;
    if (!view) return;
    const wanted: Wanted[] = [
      ...passes.map((p) => ({ key: `${p.id}:${p.blob}:${p.mask}`, id: p.id, kind: 'pass' as const, blob: p.blob, mask: p.mask, transform: p.transform, colour: passColour(p.nth) })),
      ...bodies.map((b) => ({ key: `${b.id}:${b.blob}`, id: b.id, kind: 'body' as const, blob: b.blob, mask: null, transform: b.transform, colour: 0xb9ac99 })),
    ];
    let live = true;
    const arrange = () => {
      if (live) view.arrange(new Map(wanted.filter((w) => view.has(w.key)).map((w) => [w.key, { transform: w.transform, visible: !hidden[w.id] }])));
    };
    const missing = wanted.filter((w) => !view.has(w.key) && !hidden[w.id]);
    arrange();
    if (missing.length > 0) {
      setLoading(true);
      void Promise.all(
        missing.map(async (w) => {
          const [blob, mask] = await Promise.all([api.blob(projectId, w.blob), w.mask ? api.blob(projectId, w.mask) : null]);
          if (!live || view.has(w.key)) return;
          view.add(w.key, new SceneItem(w.id, w.kind, readGeometry(blob), mask ? readMask(mask) : null, w.colour));
          arrange();
        }),
      )
        .catch((problem: Error) => toast.error(problem.message))
        .finally(() => live && setLoading(false));
    }
    return () => {
      live = false;
    };
  }, [viewport, passes, bodies, hidden, projectId]);

  useEffect(() => viewport.current?.setDatums(datums.filter((d) => !hidden[d.id])), [viewport, datums, hidden]);

  // A new body takes the stage: the passes it was made of step back.
  const bodyCount = bodies.length;
  const { commands } = useWorkspace();
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the number of bodies changes
  useEffect(() => {
    if (bodyCount > 0) commands.setHidden(Object.fromEntries(passes.map((p) => [p.id, true])));
    else commands.setHidden(Object.fromEntries(passes.map((p) => [p.id, false])));
  }, [bodyCount]);
  return loading;
}
