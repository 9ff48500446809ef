import { useCallback, useMemo, useState } from 'react';
import type { OperationInfo } from '../../api/types';
import { moduleOf } from '../../operations';
import { useWorkspace } from '../../state/context';

/** The form's values: typed ones over defaults computed from the data over fixed defaults. */
export function useParameters(operation: OperationInfo) {
  const { data, store } = useWorkspace();
  const [typed, setTyped] = useState<Record<string, unknown>>(() => {
    const { prefill } = store.getState();
    return prefill?.operation === operation.name ? prefill.values : {};
  });
  const suggestions = data.snapshot.suggestions[operation.name];
  const begun = useMemo(() => moduleOf(operation.name).beginsWith?.(data.snapshot, data.project.brief), [operation, data.snapshot, data.project.brief]);
  const values = useMemo(() => {
    const merged: Record<string, unknown> = {};
    for (const name of moduleOf(operation.name).own ?? []) if (typed[name]) merged[name] = typed[name];
    for (const p of operation.parameters) merged[p.name] = typed[p.name] ?? suggestions?.[p.name] ?? begun?.[p.name] ?? p.default;
    return merged;
  }, [operation, typed, suggestions, begun]);
  const set = useCallback((name: string, value: unknown) => setTyped((old) => ({ ...old, [name]: value })), []);
  return { values, set };
}
