import { type RefObject, useCallback, useEffect, useRef } from 'react';
import { moduleOf } from '../operations';
import { useWorkspace } from '../state/context';
import type { Hit, ScreenPoint, ToolEvent } from '../tools/events';
import { type PickPointsState, pickPointsTool } from '../tools/pickPoints/pickPointsTool';
import type { Viewport } from '../viewport/Viewport';

/** A press this near to the middle of a pick holds it, CSS pixels. */
const PICK_PX = 9;

const picking = (picks: readonly Hit[]): PickPointsState => ({ ...pickPointsTool.initial, name: picks.length > 0 ? 'picking' : 'idle', picks });

/** Joins the picking of numbered places with the view and the store. */
export function usePicking(viewport: RefObject<Viewport | null>) {
  const { store } = useWorkspace();
  const gesture = useRef(pickPointsTool.initial);
  /** The pick that is drawn at a place of the view. */
  const pickAt = useCallback(
    (at: ScreenPoint): number | null => {
      const view = viewport.current;
      if (!view) return null;
      const away = gesture.current.picks.map((pick) => {
        const p = view.project(pick.pointMm, pick.itemId);
        return Math.hypot(p.x - at.x, p.y - at.y);
      });
      const nearest = away.indexOf(Math.min(...away));
      return nearest >= 0 && away[nearest]! <= PICK_PX ? nearest : null;
    },
    [viewport],
  );
  const send = useCallback(
    (sent: ToolEvent) => {
      const hit = sent.type === 'move' && gesture.current.held ? viewport.current?.pick(sent.at) : undefined;
      const event = sent.type === 'down' ? { ...sent, onPick: pickAt(sent.at) } : hit && sent.type === 'move' ? { ...sent, hit } : sent;
      const { state, effects } = pickPointsTool.step(gesture.current, event);
      gesture.current = state;
      for (const effect of effects) {
        if (effect.type === 'showPicks') store.setState({ picks: effect.picks });
        else document.querySelector<HTMLButtonElement>('[data-apply]')?.click();
      }
    },
    [store, viewport, pickAt],
  );
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.picks === before.picks && state.pickHint === before.pickHint) return;
        // Picks that another had made are gone on with.
        if (state.picks !== gesture.current.picks) gesture.current = picking(state.picks);
        const { picksInPairs, pickColour } = moduleOf(state.openOperation);
        viewport.current?.setMarks([
          ...state.picks.map((pick: Hit, k) => ({ point: pick.pointMm, itemId: pick.itemId, text: String(picksInPairs ? 1 + (k >> 1) : k + 1), colour: pickColour?.(k) ?? '#e0b04c' })),
          ...(state.pickHint ? [{ point: state.pickHint.pointMm, itemId: state.pickHint.itemId, text: '+', colour: '#fff6dc' }] : []),
        ]);
      }),
    [store, viewport],
  );
  const reset = useCallback(() => {
    gesture.current = picking(store.getState().picks);
  }, [store]);
  return { send, pickAt, reset };
}
