import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';

/** Says when the surface around a click looks like another kind of datum than the chosen one. */
export function KindHint({ body, face, kind, angle, onKind }: { body: string; face: number; kind: string; angle: number; onKind: (kind: string) => void }) {
  const { projectId } = useWorkspace();
  const { data } = useQuery({ queryKey: ['datum-kind', projectId, body, face, angle], queryFn: () => api.datumKind(projectId, { body, face, angle }), staleTime: Number.POSITIVE_INFINITY, retry: false });
  if (!data || data.kind === kind) return null;
  const error = data.rms[data.kind];
  return (
    <p className="flex items-center gap-2" data-kind-hint={data.kind}>
      <span className="flex-1">
        It looks like a {data.kind}
        {error === undefined ? '' : `, within ${error.toFixed(3)} mm`}.
      </span>
      <button type="button" className="btn btn-xs font-normal" onClick={() => onKind(data.kind)}>
        Make it a {data.kind}
      </button>
    </p>
  );
}
