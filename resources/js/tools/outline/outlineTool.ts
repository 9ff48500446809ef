import type { ScreenPoint, Tool } from '../events';

export type OutlineShape = 'freehand' | 'rectangle' | 'polygon' | 'brush';

export type OutlineState = { name: 'idle' } | { name: 'drawing'; path: readonly ScreenPoint[] };

export type OutlineEffect = { type: 'showPath'; path: readonly ScreenPoint[] } | { type: 'selectInside'; path: readonly ScreenPoint[] } | { type: 'clearOverlay' };

const LEAST_STEP_PX = 3;
/** A corner so near the first one closes the polygon. */
const CLOSE_PX = 8;

const apart = (a: ScreenPoint, b: ScreenPoint) => Math.hypot(a.x - b.x, a.y - b.y);

const rectangle = (a: ScreenPoint, b: ScreenPoint): ScreenPoint[] => [a, { x: b.x, y: a.y }, b, { x: a.x, y: b.y }];

const idle = { name: 'idle' } as const;

function closed(path: readonly ScreenPoint[], least: number): { state: OutlineState; effects: OutlineEffect[] } {
  return { state: idle, effects: path.length >= least ? [{ type: 'clearOverlay' }, { type: 'selectInside', path }] : [{ type: 'clearOverlay' }] };
}

const shown = (path: readonly ScreenPoint[]): { state: OutlineState; effects: OutlineEffect[] } => ({ state: { name: 'drawing', path }, effects: [{ type: 'showPath', path }] });

/**
 * An outline on the screen. Freehand, rectangle and brush: press, draw, let go. Polygon: a click a corner; Enter or a click on the first
 * corner closes it, Backspace takes the last one back.
 */
export const outlineTool = (shape: OutlineShape): Tool<OutlineState, OutlineEffect> => ({
  id: `select-${shape}`,
  initial: idle,
  step(state, event) {
    const path = state.name === 'drawing' ? state.path : [];
    const nothing = { state, effects: [] };
    switch (event.type) {
      case 'down':
        if (shape === 'polygon') return nothing;
        return shown(shape === 'rectangle' ? rectangle(event.at, event.at) : [event.at]);
      case 'move': {
        if (state.name !== 'drawing' || shape === 'polygon') return nothing;
        if (shape === 'rectangle') return shown(rectangle(path[0]!, event.at));
        const last = path[path.length - 1]!;
        return apart(last, event.at) < LEAST_STEP_PX ? nothing : shown([...path, event.at]);
      }
      case 'up': {
        if (shape === 'polygon') {
          if (path.length > 2 && apart(path[0]!, event.at) < CLOSE_PX) return closed(path, 3);
          return shown([...path, event.at]);
        }
        if (state.name !== 'drawing') return nothing;
        if (shape === 'rectangle') {
          const [a, , b] = path;
          return Math.abs(a!.x - b!.x) < LEAST_STEP_PX || Math.abs(a!.y - b!.y) < LEAST_STEP_PX ? closed([], 1) : closed(path, 4);
        }
        return closed(path, shape === 'brush' ? 1 : 3);
      }
      case 'complete':
        return shape === 'polygon' && state.name === 'drawing' ? closed(path, 3) : nothing;
      case 'removeLast': {
        if (shape !== 'polygon' || path.length === 0) return nothing;
        return path.length === 1 ? closed([], 1) : shown(path.slice(0, -1));
      }
      case 'cancel':
      case 'interrupt':
        return { state: idle, effects: [{ type: 'clearOverlay' }] };
    }
  },
});
