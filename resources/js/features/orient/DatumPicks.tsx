import { useEffect } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { useView, useWorkspace } from '../../workspace/context';

/** Shows at once what a click on the part would fit. */
export function DatumPicks({ kind, angle }: { kind: string; angle: number }) {
  const { projectId, store } = useWorkspace();
  const picks = useView((s) => s.picks);
  const only = picks.length === 1 && picks[0]?.kind === 'body' && kind !== 'point' ? picks[0] : null;
  useEffect(() => {
    if (!only) {
      store.setState({ datumPreview: null });
      return;
    }
    let live = true;
    api
      .datumPreview(projectId, { body: only.itemId, face: only.index, kind, angle })
      .then((found) => live && store.setState({ datumPreview: { ...found, bodyId: only.itemId } }))
      .catch((problem: Error) => {
        if (live) {
          store.setState({ datumPreview: null });
          toast.error(problem.message);
        }
      });
    return () => {
      live = false;
    };
  }, [only, kind, angle, projectId, store]);
  return <p className="opacity-85">{kind === 'point' ? 'Click the place.' : kind === 'cylinder' ? 'Click anywhere on the round surface: the area spreads by itself.' : 'Click a flat place and the area spreads by itself, or pick three points or more.'}</p>;
}
