import { type RefObject, useMemo, useRef } from 'react';
import { useWorkspace } from '../state/context';
import type { ScreenPoint, ToolEvent } from '../tools/events';
import { type Closing, takenBack, withPart, withStrip, withWishes } from '../tools/rims/closing';
import type { RimPlace } from '../tools/rims/rims';
import { inHand, type RimEvent, type RimsEffect, type RimsState, rimsTool } from '../tools/rims/rimsTool';
import type { Viewport } from '../viewport/Viewport';

/** A rim is meant by a click no farther from it than this, CSS pixels. */
const RIM_PX = 12;

/** What of the gesture ends with a press; the stretch that waits is in the store, where the list of rims has it too. */
const NO_POINTER: Omit<RimsState, 'pending'> = { pressed: rimsTool.initial.pressed, dragged: rimsTool.initial.dragged };

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
  const pointer = useRef(NO_POINTER);
  return useMemo(() => {
    const gesture = (): RimsState => ({ ...pointer.current, pending: store.getState().rims.pending });
    /** A pointer event with the rims under it. */
    const seen = (event: Sent): RimEvent => {
      const view = viewport.current;
      if (!view || !('at' in event)) return event;
      const hand = inHand(gesture());
      return { type: event.type, at: event.at, rim: view.rimAt(event.at, RIM_PX), inHand: hand && view.rimSide(hand.rim, event.at, event.type === 'move' ? Number.POSITIVE_INFINITY : RIM_PX) };
    };
    const send = (event: Sent): void => {
      const { state, effects } = rimsTool.step(gesture(), seen(event));
      const { pending, ...ended } = state;
      pointer.current = ended;
      for (const effect of effects) {
        if (effect.type === 'apply') document.querySelector<HTMLButtonElement>('[data-apply]')?.click();
        else store.setState((s) => ({ rims: { ...s.rims, missed: effect.type === 'missed' ? effect.at : null, closing: changed(s.rims.closing, effect) } }));
      }
      const drawn = ended.pressed?.rim && ended.dragged ? { from: ended.pressed.rim, to: ended.dragged } : null;
      store.setState((s) => ({ rims: { ...s.rims, pending, drawn, side: null } }));
    };
    return {
      send,
      double: (at: ScreenPoint): void => send({ type: 'double', at }),
      /** What lies under a pointer that only passes. */
      hover: (at: ScreenPoint): void => {
        const { pending } = store.getState().rims;
        const found = viewport.current?.rimAt(at, RIM_PX) ?? null;
        const side = pending ? (viewport.current?.rimSide(pending.from.rim, at, RIM_PX) ?? null) : null;
        const { rims } = store.getState();
        if (!isSame(rims.at, found) || !isSame(rims.side, side)) store.setState({ rims: { ...rims, at: found, side } });
      },
      draws: (at: ScreenPoint): boolean => viewport.current?.rimAt(at, RIM_PX) != null,
      reset: (): void => {
        pointer.current = NO_POINTER;
      },
    };
  }, [viewport, store]);
}
