import type { ScreenPoint, ToolEvent } from '../events';
import type { RimPart, RimPlace, RimStretch, RimStrip } from './rims';

/** A pointer event with what it finds of rims. */
export interface RimEvent {
  type: ToolEvent['type'] | 'double';
  at?: ScreenPoint;
  /** near enough to mean it */
  rim?: RimPlace | null;
  /** of the rim in hand the place that is nearest, however far */
  inHand?: RimPlace | null;
}

export interface RimsState {
  pressed: { at: ScreenPoint; rim: RimPlace | null } | null;
  /** where a drag along a rim has come to */
  dragged: RimPlace | null;
  /** a stretch that waits for its side, or for the stretch that a strip joins it with */
  pending: RimStretch | null;
}

export type RimsEffect = { type: 'close' | 'leaveOpen'; rim: RimPlace } | { type: 'part'; part: RimPart } | { type: 'strip'; strip: RimStrip } | { type: 'missed'; at: ScreenPoint } | { type: 'takeBack' } | { type: 'apply' };

/** A press that moves farther than this is a drag. */
const CLICK_SLACK_PX = 5;

const IDLE: RimsState = { pressed: null, dragged: null, pending: null };

/** The place that fixes which rim is in hand: that of a press on it, else that of the stretch which waits. */
export const inHand = (state: RimsState): RimPlace | null => state.pressed?.rim ?? state.pending?.from ?? null;

/**
 * Rims as their own controls. A click closes one whole, a double click leaves it open for good; a drag along a rim marks a stretch, after which a click on one side of it closes that part,
 * and a drag along another stretch lays a strip between the two.
 */
export const rimsTool = {
  id: 'rims',
  initial: IDLE,
  step(state: RimsState, event: RimEvent): { state: RimsState; effects: RimsEffect[] } {
    const nothing = (now: RimsState) => ({ state: now, effects: [] });
    switch (event.type) {
      case 'down':
        return event.at ? nothing({ ...state, pressed: { at: event.at, rim: event.rim ?? null }, dragged: null }) : nothing(state);
      case 'move': {
        const { pressed } = state;
        if (!pressed?.rim || !event.at || Math.hypot(event.at.x - pressed.at.x, event.at.y - pressed.at.y) <= CLICK_SLACK_PX) return nothing(state);
        return nothing({ ...state, dragged: event.inHand ?? state.dragged });
      }
      case 'up':
        return released(state, event);
      case 'double':
        return { state: { ...IDLE, pending: null }, effects: event.rim ? [{ type: 'leaveOpen', rim: event.rim }] : [] };
      case 'removeLast':
        return state.pending ? nothing(IDLE) : { state, effects: [{ type: 'takeBack' }] };
      case 'complete':
        return { state, effects: [{ type: 'apply' }] };
      case 'cancel':
        return nothing(IDLE);
      case 'interrupt':
        return nothing({ ...state, pressed: null, dragged: null });
    }
  },
};

function released(state: RimsState, event: RimEvent): { state: RimsState; effects: RimsEffect[] } {
  const { pressed, dragged, pending } = state;
  const rest = { ...state, pressed: null, dragged: null };
  if (!pressed || !event.at) return { state: rest, effects: [] };
  if (pressed.rim && dragged) {
    if (dragged.corner === pressed.rim.corner) return { state: rest, effects: [] };
    const stretch = { from: pressed.rim, to: dragged };
    return pending ? { state: IDLE, effects: [{ type: 'strip', strip: [pending, stretch] }] } : { state: { ...IDLE, pending: stretch }, effects: [] };
  }
  if (Math.hypot(event.at.x - pressed.at.x, event.at.y - pressed.at.y) > CLICK_SLACK_PX) return { state: rest, effects: [] };
  const { rim, inHand: side } = event;
  if (pending && side && (!rim || rim.rim === pending.from.rim)) {
    const isEnd = side.corner === pending.from.corner || side.corner === pending.to.corner;
    return isEnd ? { state: rest, effects: [] } : { state: IDLE, effects: [{ type: 'part', part: { ...pending, side } }] };
  }
  return { state: rest, effects: [rim ? { type: 'close', rim } : { type: 'missed', at: event.at }] };
}
