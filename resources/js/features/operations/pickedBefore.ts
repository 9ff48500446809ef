import type { OperationInfo, ProjectState } from '../../api/types';
import { moduleOf } from '../../operations';
import type { Values } from '../../operations/module';
import type { ViewState } from '../../state/view/store';
import type { Hit } from '../../tools/events';
import type { Selection } from '../../viewport/marks';

type Place = Hit['pointMm'];

const isPlace = (value: unknown): value is Place => Array.isArray(value) && value.length === 3 && value.every((v) => typeof v === 'number');

/** The places that were clicked for a parameter: one, several, or one with what else is known of it ("point"). */
function placesIn(value: unknown): Place[] {
  if (isPlace(value)) return [value];
  if (Array.isArray(value)) return value.filter(isPlace);
  const point = (value as { point?: unknown } | null | undefined)?.point;
  return isPlace(point) ? [point] : [];
}

/** A pick at a place that was picked before. */
export const hit = (itemId: string, pointMm: Place): Hit => ({ itemId, kind: 'pass', index: 0, pointMm });

/** What was picked and selected for a step, so that its tool opens with it again. */
export function pickedBefore(operation: OperationInfo, parameters: Values, snapshot: ProjectState['snapshot']): Partial<ViewState> {
  const of = (picks: string) => operation.parameters.filter((p) => p.picks === picks).flatMap((p) => (Array.isArray(parameters[p.name]) ? (parameters[p.name] as unknown[]) : []));
  const idOf = (name: unknown) => [...snapshot.passes, ...snapshot.bodies].find((item) => item.id === name || item.name === name)?.id ?? '';
  const pairs = (of('pairs') as { from: Place; to: Place }[]).flatMap(({ from, to }) => [hit(idOf(parameters.moving), from), hit(idOf(parameters.onto), to)]);
  const points = operation.parameters.filter((p) => p.picks === 'points').flatMap((p) => placesIn(parameters[p.name]).map((at) => hit('', at)));
  const selection = (of('selection') as Selection[]).map((one) => ({ ...one, target: idOf(one.target), count: one.ranges.reduce((sum, [from, to]) => sum + to - from + 1, 0) })).filter((one) => one.target !== '' && one.of > 0);
  return { picks: pairs.length > 0 ? pairs : points, selection, ...moduleOf(operation.name).gestureOf?.(parameters, snapshot) };
}
