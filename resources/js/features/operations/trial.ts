import type { OperationInfo } from '../../api/types';

/** Quick steps and those that are seen before they are applied need no trial. */
const PLAIN: ReadonlySet<string> = new Set(['simulate', 'set-unit', 'cut-away', 'keep-only', 'crop', 'pair-points', 'add-datum', 'set-frame', 'frame-from-points', 'turn', 'shift', 'centre', 'scale', 'copy', 'discard', 'move', 'apply-fixture']);

export const isTriable = (operation: OperationInfo): boolean => !PLAIN.has(operation.name);

const sorted = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(sorted) : value !== null && typeof value === 'object' ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)).map(([k, v]) => [k, sorted(v)])) : value;

/** Whether two sets of parameters mean the same, whatever their order. */
export const sameParameters = (a: Record<string, unknown>, b: Record<string, unknown>): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
