import type { OperationInfo } from '../../api/types';
import { moduleOf } from '../../operations';
import type { Values } from '../../operations/module';

/** Seconds; what takes longer is tried when it is asked for. */
const LONGEST_LIVE = 20;

/**
 * Whether an operation is tried by itself as what was set changes: filters from the first, others once they have been tried.
 *
 * @param isBegun a trial of it is there
 */
export const isLive = (operation: OperationInfo, seconds: number | undefined, isBegun: boolean): boolean => {
  const { trial } = moduleOf(operation.name);
  return (trial === 'live' || (trial === 'followed' && isBegun)) && seconds !== undefined && seconds <= LONGEST_LIVE;
};

export const isTriable = (operation: OperationInfo): boolean => moduleOf(operation.name).trial !== 'never';

/** What is tried of a step, which may be more than what was set. */
export const toTry = (operation: string, parameters: Values): Values => moduleOf(operation).toTry?.(parameters) ?? parameters;

const sorted = (value: unknown): unknown =>
  Array.isArray(value)
    ? value.map(sorted)
    : value !== null && typeof value === 'object'
      ? Object.fromEntries(
          Object.entries(value)
            .sort(([a], [b]) => (a < b ? -1 : 1))
            .map(([k, v]) => [k, sorted(v)]),
        )
      : value;

/** Whether two sets of parameters mean the same, whatever their order. */
export const sameParameters = (a: Record<string, unknown>, b: Record<string, unknown>): boolean => JSON.stringify(sorted(a)) === JSON.stringify(sorted(b));
