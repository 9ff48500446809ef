import type { ProjectState } from '../../api/types';
import { moduleOf } from '../../operations';
import type { BoxUse } from '../../tools/cropBox/box';

/** What the box in the view is for while an operation is open. */
export const boxUseOf = (operation: string | null): BoxUse => moduleOf(operation).handles ?? 'size';

type Place = readonly [number, number, number];

interface Handled {
  use: Exclude<BoxUse, 'size'>;
  moves: string[];
  /** what the handles stand around */
  around: string[];
  /** another one when what they stand around has come to stand elsewhere */
  where: string;
  /** the place that turns leave where it is, if it is not the middle */
  about: Place | null;
}

/** What an operation moves by handles in the view: what it works on. */
export function handledBy(operation: string, values: Record<string, unknown>, snapshot: ProjectState['snapshot'], on: readonly string[], picked: Place | null): Handled | null {
  const all = [...snapshot.passes, ...snapshot.bodies];
  const moved = all.filter((i) => on.includes(i.id));
  const bodies = snapshot.bodies.filter((b) => on.includes(b.id));
  const use = boxUseOf(operation);
  if (use === 'size') return null;
  // The middle of everything is that of the bodies where there are any, as the server takes it.
  const around = use === 'move' ? all.filter((i) => i.id === values.moving) : bodies.length > 0 ? bodies : moved;
  const where = around.map((i) => `${i.id} ${i.transform.join(' ')}`).join();
  const ids = around.map((i) => i.id);
  if (use === 'move') return { use, moves: ids, around: ids, where, about: picked };
  return { use, moves: moved.map((i) => i.id), around: ids, where, about: use === 'turn' && values.about === 'origin' ? [0, 0, 0] : null };
}
