import type { ProjectState } from '../../api/types';

type Place = readonly [number, number, number];

/** What an operation moves by handles, around what the handles stand, and the place that turns leave where it is if it is not the middle. */
export function handledBy(operation: string, values: Record<string, unknown>, { passes, bodies }: ProjectState['snapshot'], picked: Place | null): { use: 'move' | 'shift' | 'turn'; moves: string[]; around: string[]; about: Place | null } | null {
  const one = values.moving ? [String(values.moving)] : [];
  if (operation === 'move') return { use: 'move', moves: one, around: one, about: picked };
  if (operation !== 'turn' && operation !== 'shift') return null;
  // The middle of everything is that of the bodies where there are any, as the server takes it.
  const around = (bodies.length > 0 ? bodies : passes).map((i) => i.id);
  return { use: operation, moves: [...passes, ...bodies].map((i) => i.id), around, about: operation === 'turn' && values.about === 'origin' ? [0, 0, 0] : null };
}
