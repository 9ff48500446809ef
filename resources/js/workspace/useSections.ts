import { type RefObject, useEffect, useState } from 'react';
import { toast } from 'sonner';
import { heldBy } from '../api/artefacts';
import type { ArtefactItem } from '../api/types';
import { type DrawnSize, sizesOf } from '../features/deliver/drawn';
import { useView, useWorkspace } from '../state/context';
import type { ShownDimension } from '../viewport/dimensions';
import type { ShownSection } from '../viewport/sections';
import type { Viewport } from '../viewport/Viewport';

interface Held {
  planes: { curves: ShownSection['curves']; dimensions?: DrawnSize[] }[];
}

/** Draws the curves of sections that are not hidden, and tells their dimensions. */
export function useSections(viewport: RefObject<Viewport | null>, artefacts: readonly ArtefactItem[]): readonly ShownDimension[] {
  const { projectId } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const [sizes, setSizes] = useState<readonly ShownDimension[]>([]);
  const shown = artefacts.filter((a) => a.kind === 'section' && !hidden[a.id]);
  const key = shown.map((a) => `${a.blob} ${a.transform.join()}`).join(';');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which are shown, and where
  useEffect(() => {
    let live = true;
    Promise.all(shown.map(async (a) => ({ a, planes: (await heldBy<Held>(projectId, a.blob)).planes })))
      .then((sections) => {
        if (!live) return;
        viewport.current?.setSections(sections.map(({ a, planes }) => ({ transform: a.transform, curves: planes.flatMap((p) => p.curves) })));
        setSizes(
          sections.flatMap(({ a, planes }) =>
            sizesOf(
              a,
              planes.flatMap((p) => p.dimensions ?? []),
            ),
          ),
        );
      })
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [viewport, projectId, key]);
  return sizes;
}
