import { type RefObject, useEffect } from 'react';
import { toast } from 'sonner';
import { heldBy } from '../api/artefacts';
import type { ArtefactItem, BodyItem } from '../api/types';
import { type HeldShapes, isCurrent, labelsOf } from '../features/lighten/shapes';
import { useView, useWorkspace } from '../state/context';
import type { StageName } from '../state/view/store';
import type { ShownShapes } from '../viewport/shapeLayer';
import type { Viewport } from '../viewport/Viewport';

/** Where shapes are looked for and used; elsewhere the body shows what backs its surface. */
const SEEN_IN: ReadonlySet<StageName> = new Set(['lighten', 'orient']);

/** Lays the shapes that were found over their bodies, unless they are hidden or of an earlier surface. */
export function useShapes(viewport: RefObject<Viewport | null>, artefacts: readonly ArtefactItem[], bodies: readonly BodyItem[], loading: boolean): void {
  const { projectId, store } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const stage = useView((s) => s.stage);
  const shown = SEEN_IN.has(stage) ? artefacts.filter((a) => a.kind === 'shapes' && !hidden[a.id] && isCurrent(a, bodies)) : [];
  const key = shown.map((a) => `${a.bodyId} ${a.blob}`).join(';');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which are shown, and bodies that were just loaded must be told too
  useEffect(() => {
    let live = true;
    Promise.all(
      shown.map(async (a): Promise<[string, ShownShapes]> => {
        const held = await heldBy<HeldShapes>(projectId, a.blob);
        return [a.bodyId ?? '', { labels: labelsOf(held), kinds: held.shapes.map((s) => s.kind) }];
      }),
    )
      .then((found) => {
        if (!live) return;
        viewport.current?.setShapes(new Map(found));
        store.setState({ shapeKinds: [...new Set(found.flatMap(([, shapes]) => shapes.kinds))] });
      })
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [viewport, projectId, key, loading, store]);
}
