import { useQuery } from '@tanstack/react-query';
import { useEffect, useState } from 'react';
import { api } from '../api/client';
import type { StepStates as States } from '../api/types';
import { Choice } from '../ui/Choice';
import { useWorkspace } from '../state/context';

type Side = 'before' | 'after' | 'now';

const SIDES: { value: Side; label: string }[] = [
  { value: 'before', label: 'Before' },
  { value: 'after', label: 'After' },
  { value: 'now', label: 'Now' },
];

/** Ids of what a step changed, made or took out. */
export function touched({ before, after }: States): string[] {
  const key = (i: { blob: string; mask?: string | null; transform: readonly number[] }) => `${i.blob} ${i.mask ?? ''} ${i.transform.join()}`;
  const was = new Map([...before.passes, ...before.bodies].map((i) => [i.id, key(i)]));
  const is = new Map([...after.passes, ...after.bodies].map((i) => [i.id, key(i)]));
  return [...new Set([...was.keys(), ...is.keys()])].filter((id) => was.get(id) !== is.get(id));
}

/** Shows the part as the step found it, as it left it, or as it is. */
export function StepStates({ stepId }: { stepId: number }) {
  const { projectId, store } = useWorkspace();
  const [side, setSide] = useState<Side>('now');
  const { data: states } = useQuery({ queryKey: ['states', projectId, stepId], queryFn: () => api.states(projectId, stepId), staleTime: Infinity, retry: false });
  useEffect(() => {
    store.setState({ state: states && side !== 'now' ? { ...states[side], touched: touched(states) } : null });
  }, [side, states, store]);
  useEffect(() => () => store.setState({ state: null }), [store]);
  if (!states || touched(states).length === 0) return null;
  return <Choice label="Show the part" options={SIDES} value={side} onChoose={setSide} />;
}
