import { type RefObject, useEffect } from 'react';
import { toast } from 'sonner';
import { heldBy } from '../api/artefacts';
import type { ArtefactItem } from '../api/types';
import { useView, useWorkspace } from '../state/context';
import type { ShownSection } from '../viewport/sections';
import type { Viewport } from '../viewport/Viewport';

interface Held {
  planes: { curves: ShownSection['curves'] }[];
}

/** Draws the curves of sections that are not hidden. */
export function useSections(viewport: RefObject<Viewport | null>, artefacts: readonly ArtefactItem[]): void {
  const { projectId } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const shown = artefacts.filter((a) => a.kind === 'section' && !hidden[a.id]);
  const key = shown.map((a) => `${a.blob} ${a.transform.join()}`).join(';');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which are shown, and where
  useEffect(() => {
    let live = true;
    Promise.all(shown.map(async (a): Promise<ShownSection> => ({ transform: a.transform, curves: (await heldBy<Held>(projectId, a.blob)).planes.flatMap((p) => p.curves) })))
      .then((sections) => live && viewport.current?.setSections(sections))
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [viewport, projectId, key]);
}
