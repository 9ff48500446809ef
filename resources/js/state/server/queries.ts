import { useMutation, useQuery, useQueryClient } from '@tanstack/react-query';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { ProjectState } from '../../api/types';

const busy = (state: ProjectState | undefined) => ['waiting', 'running'].includes(state?.capture?.state ?? '') || [...(state?.steps ?? []), ...(state?.trial ? [state.trial.step] : [])].some((s) => s.state === 'running' || s.state === 'waiting');

/** The whole project; asked twice a second while something runs, now and then else (somebody else may work on it too). */
export const useProject = (id: string) => useQuery({ queryKey: ['project', id], queryFn: () => api.project(id), refetchInterval: (query) => (busy(query.state.data) ? 450 : 5000) });

export const useOperations = () => useQuery({ queryKey: ['operations'], queryFn: api.operations, staleTime: Infinity });

/** Runs a command on the server, shows its refusal, and asks for the new state. */
export function useCommand(projectId: string) {
  const client = useQueryClient();
  return useMutation({
    mutationFn: (command: () => Promise<unknown>) => command(),
    onError: (problem) => toast.error(problem.message),
    onSettled: () => client.invalidateQueries({ queryKey: ['project', projectId] }),
  });
}
