import type { Hit, ScreenPoint, Tool } from '../events';

export type ClickState = { name: 'idle' } | { name: 'pressed'; at: ScreenPoint };

export type ClickEffect = { type: 'clicked'; hit: Hit };

/** A press that moves farther than this turns the view instead. */
const SLACK_PX = 5;

/** One place at a time: each click on the part counts, a drag does not. */
export const clickTool: Tool<ClickState, ClickEffect> = {
  id: 'click',
  initial: { name: 'idle' },
  step(state, event) {
    switch (event.type) {
      case 'down':
        return { state: { name: 'pressed', at: event.at }, effects: [] };
      case 'up': {
        const clicked = state.name === 'pressed' && event.hit && Math.hypot(event.at.x - state.at.x, event.at.y - state.at.y) <= SLACK_PX;
        return { state: { name: 'idle' }, effects: clicked && event.hit ? [{ type: 'clicked', hit: event.hit }] : [] };
      }
      case 'cancel':
      case 'interrupt':
        return { state: { name: 'idle' }, effects: [] };
      default:
        return { state, effects: [] };
    }
  },
};
