import { useQuery } from '@tanstack/react-query';
import { api } from '../../api/client';
import type { Estimate, OperationInfo } from '../../api/types';
import { useWorkspace } from '../../state/context';

/** What the step will cost; asked when the parameters settle. */
export function useEstimate(operation: OperationInfo, parameters: Record<string, unknown>, on: string[] | null, wanted: boolean): Estimate | null {
  const { projectId, data } = useWorkspace();
  const head = data.steps.filter((s) => s.state === 'done').at(-1)?.id;
  const query = useQuery({
    queryKey: ['estimate', projectId, head, operation.name, JSON.stringify([parameters, on])],
    queryFn: () => api.estimate(projectId, operation.name, parameters, on),
    enabled: wanted,
    staleTime: Infinity,
    retry: false,
  });
  return wanted ? (query.data ?? null) : null;
}
