import { type RefObject, useEffect } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client';
import type { ArtefactItem } from '../api/types';
import { useView, useWorkspace } from '../state/context';
import type { ShownSection } from '../viewport/sections';
import type { Viewport } from '../viewport/Viewport';

interface Held {
  planes: { curves: ShownSection['curves'] }[];
}

/** What artefacts hold, by blob: it never changes. */
const held = new Map<string, Held>();

async function read(projectId: string, blob: string): Promise<Held> {
  const known = held.get(blob) ?? (JSON.parse(new TextDecoder().decode(await api.blob(projectId, blob))) as Held);
  held.set(blob, known);
  return known;
}

/** Draws the curves of sections that are not hidden. */
export function useSections(viewport: RefObject<Viewport | null>, artefacts: readonly ArtefactItem[]): void {
  const { projectId } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const shown = artefacts.filter((a) => !hidden[a.id]);
  const key = shown.map((a) => `${a.blob} ${a.transform.join()}`).join(';');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which are shown, and where
  useEffect(() => {
    let live = true;
    Promise.all(shown.map(async (a): Promise<ShownSection> => ({ transform: a.transform, curves: (await read(projectId, a.blob)).planes.flatMap((p) => p.curves) })))
      .then((sections) => live && viewport.current?.setSections(sections))
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [viewport, projectId, key]);
}
