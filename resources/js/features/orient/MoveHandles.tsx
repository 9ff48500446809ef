import { useEffect, useState } from 'react';
import { type Box, type BoxUse, motionOf } from '../../tools/cropBox/box';
import { useView, useWorkspace } from '../../state/context';
import { boxAt, valuesOf } from './moveBox';

/** How often it is looked whether what moves has come into the view. */
const MOST_TRIES = 100;

/** Handles in the view for what is moved by hand: they and the typed values say the same, and the view shows where it would stand. */
export function MoveHandles({ use, values, moves, around, where, about, onSet }: { use: Exclude<BoxUse, 'size'>; values: Record<string, unknown>; moves: readonly string[]; around: readonly string[]; where: string; about: readonly [number, number, number] | null; onSet: (name: string, value: unknown) => void }) {
  const { store, viewport } = useWorkspace();
  const dragged = useView((s) => s.boxDragged);
  const [start, setStart] = useState<Box | null>(null);
  // What moves may still be on its way into the view.
  const [tries, setTries] = useState(0);
  // What moves has been chosen, or has come to stand elsewhere: the box stands around it, or around the place that turns leave where it is.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say what moves, where it stands, and about what
  useEffect(() => {
    const look = () => {
      const bounds = around.length > 0 ? (viewport.current?.boundsOf(around) ?? null) : null;
      setStart(bounds && { ...bounds, centre: about ?? bounds.centre });
      if (!bounds && around.length > 0 && tries < MOST_TRIES) setTries(tries + 1);
    };
    // After all that this change brings about: the view puts what has moved in its new place.
    const later = window.setTimeout(look, tries === 0 ? 0 : 150);
    return () => window.clearTimeout(later);
  }, [where, about?.join(), tries, viewport]);
  useEffect(() => () => store.setState({ cropBox: null, boxDragged: null, movePreview: null }), [store]);
  // A handle was dragged: it says so in the form's values, and only they move the box.
  // biome-ignore lint/correctness/useExhaustiveDependencies: once for each drag
  useEffect(() => {
    if (dragged && start) for (const [name, value] of Object.entries(valuesOf(start, use, dragged))) onSet(name, value);
  }, [dragged]);
  const said = JSON.stringify(start && [start, boxAt(start, use, values)]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the words say which boxes
  useEffect(() => {
    const [from, to] = (JSON.parse(said) ?? []) as Box[];
    store.setState(from && to ? { cropBox: to, movePreview: { itemIds: [...moves], transform: motionOf(from, to) } } : { cropBox: null, movePreview: null });
  }, [said, use, store]);
  if (around.length === 0) return null;
  if (!start) return <p className="opacity-85">The handles appear with what moves.</p>;
  return (
    <p className="opacity-85">
      {use === 'turn' ? 'Drag ↻ in the view, or type. Or click the face that shall point up; a second click makes it a line to lay along the nearest axis.' : use === 'shift' ? 'Drag ↔ or ✥ in the view, or type.' : 'Drag ↔, ✥ or ↻ in the view, or type. A click sets the place that turns leave where it is.'}
    </p>
  );
}
