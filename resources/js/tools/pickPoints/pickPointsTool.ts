import type { Hit, Tool } from '../events';

export interface PickPointsState {
  name: 'idle' | 'picking';
  picks: readonly Hit[];
  downAt: { x: number; y: number } | null;
}

export type PickPointsEffect = { type: 'showPicks'; picks: readonly Hit[] } | { type: 'apply' };

/** A press that moves farther than this turns the view instead. */
const CLICK_SLACK_PX = 5;

const show = (picks: readonly Hit[]): PickPointsEffect => ({ type: 'showPicks', picks });

/** Collects numbered places; Backspace removes the last, Enter applies, Esc clears. */
export const pickPointsTool: Tool<PickPointsState, PickPointsEffect> = {
  id: 'pick-points',
  initial: { name: 'idle', picks: [], downAt: null },
  step(state, event) {
    switch (event.type) {
      case 'down':
        return { state: { ...state, downAt: event.at }, effects: [] };
      case 'up': {
        const start = state.downAt;
        const rest = { ...state, downAt: null };
        if (!start || !event.hit || Math.hypot(event.at.x - start.x, event.at.y - start.y) > CLICK_SLACK_PX) return { state: rest, effects: [] };
        const picks = [...state.picks, event.hit];
        return { state: { name: 'picking', picks, downAt: null }, effects: [show(picks)] };
      }
      case 'removeLast': {
        if (state.picks.length === 0) return { state, effects: [] };
        const picks = state.picks.slice(0, -1);
        return { state: { name: picks.length > 0 ? 'picking' : 'idle', picks, downAt: null }, effects: [show(picks)] };
      }
      case 'complete':
        return { state, effects: state.picks.length > 0 ? [{ type: 'apply' }] : [] };
      case 'cancel':
        return { state: pickPointsTool.initial, effects: [show([])] };
      case 'interrupt':
        return { state: { ...state, downAt: null }, effects: [] };
      default:
        return { state, effects: [] };
    }
  },
};
