import { type RefObject, useEffect, useMemo, useRef } from 'react';
import { useWorkspace } from '../state/context';
import type { ScreenPoint, ToolEvent } from '../tools/events';
import { type Closing, takenBack, withPart, withStrip, withWishes } from '../tools/rims/closing';
import type { RimPlace } from '../tools/rims/rims';
import { inHand, type RimEvent, type RimsEffect, type RimsState, rimsTool } from '../tools/rims/rimsTool';
import type { Viewport } from '../viewport/Viewport';

/** A rim is meant by a click no farther from it than this, CSS pixels. */
const RIM_PX = 12;

type Sent = ToolEvent | { type: 'double'; at: ScreenPoint };

const isSame = (a: RimPlace | null, b: RimPlace | null): boolean => a?.rim === b?.rim && a?.corner === b?.corner;

/** What an effect makes of what was said of rims. */
function changed(closing: Closing, effect: RimsEffect): Closing {
  switch (effect.type) {
    case 'takeBack':
      return takenBack(closing);
    case 'part':
      return withPart(closing, effect.part);
    case 'strip':
      return withStrip(closing, effect.strip);
    case 'leaveOpen':
      // Its two clicks were said and taken back before.
      return withWishes(takenBack(takenBack(closing)), { [effect.rim.rim]: 'open' });
    case 'close':
      return withWishes(closing, { [effect.rim.rim]: (closing.wishes[effect.rim.rim] ?? 'close') === 'close' ? 'later' : 'close' });
    default:
      return closing;
  }
}

/** Joins the gesture on rims with the view and the store. */
export function useRimTool(viewport: RefObject<Viewport | null>) {
  const { store } = useWorkspace();
  const gesture = useRef<RimsState>(rimsTool.initial);
  // What was said is changed from elsewhere too, as by the list: then nothing waits any more.
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.rims.closing !== before.rims.closing && state.rims.pending === null) gesture.current = { ...gesture.current, pending: null };
      }),
    [store],
  );
  return useMemo(() => {
    /** A pointer event with the rims under it. */
    const seen = (event: Sent): RimEvent => {
      const view = viewport.current;
      if (!view || !('at' in event)) return event;
      const hand = inHand(gesture.current);
      return { type: event.type, at: event.at, rim: view.rimAt(event.at, RIM_PX), inHand: hand && view.rimSide(hand.rim, event.at, event.type === 'move' ? Number.POSITIVE_INFINITY : RIM_PX) };
    };
    const send = (event: Sent): void => {
      const { state, effects } = rimsTool.step(gesture.current, seen(event));
      gesture.current = state;
      for (const effect of effects) {
        if (effect.type === 'apply') document.querySelector<HTMLButtonElement>('[data-apply]')?.click();
        else store.setState((s) => ({ rims: { ...s.rims, missed: effect.type === 'missed' ? effect.at : null, closing: changed(s.rims.closing, effect) } }));
      }
      const dragged = state.pressed?.rim && state.dragged ? { from: state.pressed.rim, to: state.dragged } : null;
      store.setState((s) => ({ rims: { ...s.rims, pending: dragged ?? state.pending, side: null } }));
    };
    return {
      send,
      double: (at: ScreenPoint): void => send({ type: 'double', at }),
      /** What lies under a pointer that only passes. */
      hover: (at: ScreenPoint): void => {
        const { pending } = gesture.current;
        const found = viewport.current?.rimAt(at, RIM_PX) ?? null;
        const side = pending ? (viewport.current?.rimSide(pending.from.rim, at, RIM_PX) ?? null) : null;
        const { rims } = store.getState();
        if (!isSame(rims.at, found) || !isSame(rims.side, side)) store.setState({ rims: { ...rims, at: found, side } });
      },
      draws: (at: ScreenPoint): boolean => viewport.current?.rimAt(at, RIM_PX) != null,
      reset: (): void => {
        gesture.current = rimsTool.initial;
      },
    };
  }, [viewport, store]);
}
