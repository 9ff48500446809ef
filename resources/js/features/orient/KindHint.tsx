import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';

/**
 * Takes the kind of datum that the surface around a click has, until the person says another; then it says only that the surface looks otherwise.
 *
 * @param props.seen the kind that was taken from the surface last
 */
export function KindHint({ body, face, kind, seen, angle, onKind }: { body: string; face: number; kind: string; seen: string | undefined; angle: number; onKind: (kind: string, seen: string) => void }) {
  const { projectId } = useWorkspace();
  const { data } = useQuery({ queryKey: ['datum-kind', projectId, body, face, angle], queryFn: () => api.datumKind(projectId, { body, face, angle }), staleTime: Number.POSITIVE_INFINITY, retry: false });
  const looks = data?.kind;
  const isOpen = kind === (seen ?? 'plane');
  useEffect(() => {
    if (looks !== undefined && isOpen && looks !== kind) onKind(looks, looks);
  }, [looks, isOpen, kind, onKind]);
  if (!data || !looks || (looks === kind && seen !== looks)) return null;
  const error = data.rms[looks];
  const within = error === undefined ? '' : `, within ${error.toFixed(3)} mm`;
  return (
    <p className="flex items-center gap-2" data-kind-hint={looks}>
      {looks === kind ? (
        <span className="flex-1">
          Taken as a {looks}, as the surface is one{within}. Another kind is chosen above.
        </span>
      ) : (
        <>
          <span className="flex-1">
            It looks like a {looks}
            {within}.
          </span>
          <button type="button" className="btn btn-xs font-normal" onClick={() => onKind(looks, looks)}>
            Make it a {looks}
          </button>
        </>
      )}
    </p>
  );
}
