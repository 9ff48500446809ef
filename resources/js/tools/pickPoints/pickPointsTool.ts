import type { Hit, Tool } from '../events';

export interface PickPointsState {
  name: 'idle' | 'picking';
  picks: readonly Hit[];
  downAt: { x: number; y: number } | null;
  /** the pick that was pressed on, and whether it has been dragged since */
  held: { pick: number; isDragged: boolean } | null;
}

export type PickPointsEffect = { type: 'showPicks'; picks: readonly Hit[] } | { type: 'apply' };

/** A press that moves farther than this turns the view instead. */
const CLICK_SLACK_PX = 5;

const show = (picks: readonly Hit[]): PickPointsEffect => ({ type: 'showPicks', picks });

/** Collects numbered places; one that is dragged goes elsewhere on the part; Backspace removes the last, Enter applies, Esc clears. */
export const pickPointsTool: Tool<PickPointsState, PickPointsEffect> = {
  id: 'pick-points',
  initial: { name: 'idle', picks: [], downAt: null, held: null },
  step(state, event) {
    switch (event.type) {
      case 'down':
        return { state: { ...state, downAt: event.at, held: event.onPick == null ? null : { pick: event.onPick, isDragged: false } }, effects: [] };
      case 'move': {
        const { held, downAt } = state;
        if (!held || !downAt || (!held.isDragged && Math.hypot(event.at.x - downAt.x, event.at.y - downAt.y) <= CLICK_SLACK_PX)) return { state, effects: [] };
        const dragged = { ...state, held: { ...held, isDragged: true } };
        const { hit } = event;
        // Beside the part it stays where it was last.
        if (!hit) return { state: dragged, effects: [] };
        const picks = state.picks.map((pick, k) => (k === held.pick ? hit : pick));
        return { state: { ...dragged, picks }, effects: [show(picks)] };
      }
      case 'up': {
        const start = state.downAt;
        const rest = { ...state, downAt: null, held: null };
        if (state.held?.isDragged || !start || !event.hit || Math.hypot(event.at.x - start.x, event.at.y - start.y) > CLICK_SLACK_PX) return { state: rest, effects: [] };
        const picks = [...state.picks, event.hit];
        return { state: { name: 'picking', picks, downAt: null, held: null }, effects: [show(picks)] };
      }
      case 'removeLast': {
        if (state.picks.length === 0) return { state, effects: [] };
        const picks = state.picks.slice(0, -1);
        return { state: { name: picks.length > 0 ? 'picking' : 'idle', picks, downAt: null, held: null }, effects: [show(picks)] };
      }
      case 'complete':
        return { state, effects: state.picks.length > 0 ? [{ type: 'apply' }] : [] };
      case 'cancel':
        return { state: pickPointsTool.initial, effects: [show([])] };
      case 'interrupt':
        return { state: { ...state, downAt: null, held: null }, effects: [] };
      default:
        return { state, effects: [] };
    }
  },
};
