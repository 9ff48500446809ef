import type { Hit, ScreenPoint, ToolEvent } from '../tools/events';
import type { Viewport } from './Viewport';

export interface PointerClaims {
  /** a tool that draws, or a handle under the pointer, takes the left button; the right one then turns the view */
  draws: (at: ScreenPoint) => boolean;
  /** null while no tool listens */
  send: () => ((event: ToolEvent) => void) | null;
  pick: (at: ScreenPoint) => Hit | undefined;
  hover: (hit: Hit | undefined, at: ScreenPoint | null) => void;
}

/**
 * The one place where DOM events become view motion and tool events. Left drag turns about the point under the pointer,
 * middle or Shift+left shifts, the wheel zooms to the pointer.
 */
export function listen(host: HTMLElement, view: Viewport, claims: PointerClaims): () => void {
  let gesture: { kind: 'turn' | 'shift' | 'tool'; last: ScreenPoint; about: readonly [number, number, number] | null } | null = null;
  let hoverQueued = false;
  const at = (e: PointerEvent | WheelEvent): ScreenPoint => {
    const box = host.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const down = (e: PointerEvent) => {
    if (e.target !== host && !(e.target instanceof HTMLCanvasElement)) return;
    const point = at(e);
    host.setPointerCapture(e.pointerId);
    const shifts = e.button === 1 || (e.button === 0 && e.shiftKey);
    const tools = e.button === 0 && !shifts && claims.draws(point);
    gesture = { kind: tools ? 'tool' : shifts ? 'shift' : 'turn', last: point, about: !tools && !shifts ? (claims.pick(point)?.pointMm ?? null) : null };
    if (e.button === 0) claims.send()?.({ type: 'down', at: point });
    if (e.button === 1) e.preventDefault();
  };
  const move = (e: PointerEvent) => {
    const point = at(e);
    if (!gesture) {
      if (hoverQueued) return;
      hoverQueued = true;
      requestAnimationFrame(() => {
        hoverQueued = false;
        if (!gesture) claims.hover(claims.pick(point), point);
      });
      return;
    }
    if (gesture.kind === 'turn') view.turn(point.x - gesture.last.x, point.y - gesture.last.y, gesture.about);
    else if (gesture.kind === 'shift') view.shift(point.x - gesture.last.x, point.y - gesture.last.y);
    else claims.send()?.({ type: 'move', at: point });
    gesture.last = point;
  };
  const up = (e: PointerEvent) => {
    if (!gesture) return;
    gesture = null;
    const point = at(e);
    if (e.button === 0) claims.send()?.({ type: 'up', at: point, hit: claims.pick(point), more: e.ctrlKey || e.metaKey });
  };
  const lost = () => {
    if (gesture?.kind === 'tool') claims.send()?.({ type: 'interrupt' });
    gesture = null;
  };
  const wheel = (e: WheelEvent) => {
    e.preventDefault();
    view.zoom(Math.exp(clamp(e.deltaY, 200) * 0.0015), at(e));
  };
  const menu = (e: Event) => e.preventDefault();
  host.addEventListener('pointerdown', down);
  host.addEventListener('pointermove', move);
  host.addEventListener('pointerup', up);
  host.addEventListener('pointercancel', lost);
  host.addEventListener('wheel', wheel, { passive: false });
  host.addEventListener('contextmenu', menu);
  return () => {
    host.removeEventListener('pointerdown', down);
    host.removeEventListener('pointermove', move);
    host.removeEventListener('pointerup', up);
    host.removeEventListener('pointercancel', lost);
    host.removeEventListener('wheel', wheel);
    host.removeEventListener('contextmenu', menu);
  };
}

const clamp = (v: number, most: number) => Math.max(-most, Math.min(most, v));
