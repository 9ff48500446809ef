import type { ScreenPoint, Tool } from '../events';

export type OutlineState = { name: 'idle' } | { name: 'drawing'; path: readonly ScreenPoint[] };

export type OutlineEffect = { type: 'showPath'; path: readonly ScreenPoint[] } | { type: 'selectInside'; path: readonly ScreenPoint[] } | { type: 'clearOverlay' };

const LEAST_STEP_PX = 3;

/** A freehand outline: press, draw around what is meant, let go. */
export const outlineTool: Tool<OutlineState, OutlineEffect> = {
  id: 'select-outline',
  initial: { name: 'idle' },
  step(state, event) {
    switch (event.type) {
      case 'down':
        return { state: { name: 'drawing', path: [event.at] }, effects: [{ type: 'showPath', path: [event.at] }] };
      case 'move': {
        if (state.name !== 'drawing') return { state, effects: [] };
        const last = state.path[state.path.length - 1];
        if (last && Math.hypot(event.at.x - last.x, event.at.y - last.y) < LEAST_STEP_PX) return { state, effects: [] };
        const path = [...state.path, event.at];
        return { state: { name: 'drawing', path }, effects: [{ type: 'showPath', path }] };
      }
      case 'up':
        if (state.name !== 'drawing') return { state, effects: [] };
        return {
          state: { name: 'idle' },
          effects: state.path.length > 2 ? [{ type: 'clearOverlay' }, { type: 'selectInside', path: state.path }] : [{ type: 'clearOverlay' }],
        };
      case 'cancel':
      case 'interrupt':
        return { state: { name: 'idle' }, effects: [{ type: 'clearOverlay' }] };
      default:
        return { state, effects: [] };
    }
  },
};

/** Even-odd rule: is the point inside the closed path? */
export function isInside(path: readonly ScreenPoint[], x: number, y: number): boolean {
  let inside = false;
  for (let i = 0, j = path.length - 1; i < path.length; j = i++) {
    const a = path[i]!;
    const b = path[j]!;
    if (a.y > y !== b.y > y && x < ((b.x - a.x) * (y - a.y)) / (b.y - a.y) + a.x) inside = !inside;
  }
  return inside;
}
