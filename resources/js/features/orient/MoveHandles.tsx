import { useEffect, useRef } from 'react';
import { type Box, type BoxUse, motionOf } from '../../tools/cropBox/box';
import { useView, useWorkspace } from '../../workspace/context';
import { boxAt, isSame, valuesOf } from './moveBox';

/** Handles in the view for what is moved by hand: they and the typed values say the same, and the view shows where it would stand. */
export function MoveHandles({ use, values, moves, around, about, onSet }: { use: Exclude<BoxUse, 'size'>; values: Record<string, unknown>; moves: readonly string[]; around: readonly string[]; about: readonly [number, number, number] | null; onSet: (name: string, value: unknown) => void }) {
  const { store, viewport } = useWorkspace();
  const box = useView((s) => s.cropBox);
  const start = useRef<Box | null>(null);
  const key = `${around.join()} ${about?.join() ?? ''}`;
  const typed = useRef(values);
  typed.current = values;
  // What moves has been chosen: the box stands around it, or around the place that turns leave where it is.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what moves and about what
  useEffect(() => {
    const bounds = around.length > 0 ? (viewport.current?.boundsOf(around) ?? null) : null;
    start.current = bounds && { ...bounds, centre: about ?? bounds.centre };
    store.setState({ boxUse: use, cropBox: start.current && boxAt(start.current, use, typed.current) });
    return () => store.setState({ cropBox: null, boxUse: 'size', movePreview: null });
  }, [key, use, store, viewport]);
  // A handle was dragged.
  useEffect(() => {
    if (!box || !start.current || isSame(box, boxAt(start.current, use, typed.current))) return;
    for (const [name, value] of Object.entries(valuesOf(start.current, use, box))) onSet(name, value);
  }, [box, use, onSet]);
  // A value was typed, or taken from a handle.
  const said = JSON.stringify(start.current && boxAt(start.current, use, values));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say which box
  useEffect(() => {
    const wanted = JSON.parse(said) as Box | null;
    if (!wanted || !start.current) return;
    const now = store.getState().cropBox;
    store.setState({ movePreview: { itemIds: [...moves], transform: motionOf(start.current, wanted) }, ...(now && isSame(now, wanted) ? {} : { cropBox: wanted }) });
  }, [said, key, store]);
  if (around.length === 0) return null;
  return <p className="opacity-85">{use === 'turn' ? 'Drag ↻ in the view, or type. Or click the face that shall point up; a second click makes it a line to lay along the nearest axis.' : use === 'shift' ? 'Drag ↔ or ✥ in the view, or type.' : 'Drag ↔, ✥ or ↻ in the view, or type. A click sets the place that turns leave where it is.'}</p>;
}
