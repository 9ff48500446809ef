import type { OperationInfo } from '../../api/types';

/** Quick steps and those that are seen before they are applied need no trial. */
const PLAIN: ReadonlySet<string> = new Set(['simulate', 'set-unit', 'cut-away', 'keep-only', 'crop', 'pair-points', 'add-datum', 'set-frame', 'frame-from-points', 'turn', 'shift', 'centre', 'scale', 'copy', 'discard', 'move', 'apply-fixture']);

/** Filters: what they would take is seen while their numbers are being set. */
const LIVE: ReadonlySet<string> = new Set(['remove-outliers', 'remove-grazing', 'remove-unsure', 'remove-strays', 'thin', 'drop-base', 'despike', 'resolve-double-skin']);

/** Seconds; what takes longer is tried when it is asked for. */
const LONGEST_LIVE = 20;

/** Whether a filter is tried by itself as its numbers change. */
export const isLive = (operation: OperationInfo, seconds: number | undefined): boolean => LIVE.has(operation.name) && seconds !== undefined && seconds <= LONGEST_LIVE;

export const isTriable = (operation: OperationInfo): boolean => !PLAIN.has(operation.name);

/** What is tried of a step: rebuilt surface is tried whole, as the view can leave out by itself what a support takes off. */
export const toTry = (operation: string, parameters: Record<string, unknown>): Record<string, unknown> => (operation === 'rebuild' ? { ...parameters, support: 0 } : parameters);

const sorted = (value: unknown): unknown =>
  Array.isArray(value) ? value.map(sorted) : value !== null && typeof value === 'object' ? Object.fromEntries(Object.entries(value).sort(([a], [b]) => (a < b ? -1 : 1)).map(([k, v]) => [k, sorted(v)])) : value;

/** Whether two sets of parameters mean the same, whatever their order. */
export const sameParameters = (a: Record<string, unknown>, b: Record<string, unknown>): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
