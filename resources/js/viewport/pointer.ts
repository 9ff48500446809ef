import type { Hit, ScreenPoint, ToolEvent } from '../tools/events';
import type { Viewport } from './Viewport';

export interface PointerClaims {
  /** a tool that draws, or a handle under the pointer, takes the left button; the right one then turns the view */
  draws: (at: ScreenPoint) => boolean;
  /** null while no tool listens */
  send: () => ((event: ToolEvent) => void) | null;
  pick: (at: ScreenPoint) => Hit | undefined;
  hover: (hit: Hit | undefined, at: ScreenPoint | null) => void;
  /** null while no tool means anything by it */
  double: () => ((at: ScreenPoint) => void) | null;
}

/**
 * The one place where DOM events become view motion and tool events. Left drag turns about the point under the pointer,
 * middle or Shift+left shifts, the wheel zooms to the pointer; on a trackpad two fingers turn and a pinch zooms.
 */
export function listen(host: HTMLElement, view: Viewport, claims: PointerClaims): () => void {
  let gesture: { kind: 'turn' | 'shift' | 'tool'; last: ScreenPoint; from: ScreenPoint; about: readonly [number, number, number] | null } | null = null;
  let hoverQueued = false;
  const at = (e: MouseEvent): ScreenPoint => {
    const box = host.getBoundingClientRect();
    return { x: e.clientX - box.left, y: e.clientY - box.top };
  };
  const down = (e: PointerEvent) => {
    if (e.target !== host && !(e.target instanceof HTMLCanvasElement)) return;
    const point = at(e);
    host.setPointerCapture(e.pointerId);
    const shifts = e.button === 1 || (e.button === 0 && e.shiftKey);
    const tools = e.button === 0 && !shifts && claims.draws(point);
    gesture = { kind: tools ? 'tool' : shifts ? 'shift' : 'turn', last: point, from: point, about: !tools && !shifts ? (claims.pick(point)?.pointMm ?? null) : null };
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
    if (gesture.kind === 'turn') view.turn(point.x - gesture.last.x, point.y - gesture.last.y, gesture.about, gesture.from);
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
    // A pinch comes as a wheel with Ctrl; two fingers that move together come as small steps both ways, and turn.
    if (e.ctrlKey) view.zoom(Math.exp(clamp(e.deltaY, 50) * PINCH), at(e));
    else if (isTrackpad(e)) view.turn(-e.deltaX, -e.deltaY, claims.pick(at(e))?.pointMm ?? null, at(e));
    else view.zoom(Math.exp(clamp(e.deltaY, 200) * 0.0015), at(e));
  };
  const double = (e: MouseEvent) => claims.double()?.(at(e));
  const menu = (e: Event) => e.preventDefault();
  host.addEventListener('pointerdown', down);
  host.addEventListener('pointermove', move);
  host.addEventListener('pointerup', up);
  host.addEventListener('pointercancel', lost);
  host.addEventListener('wheel', wheel, { passive: false });
  host.addEventListener('dblclick', double);
  host.addEventListener('contextmenu', menu);
  return () => {
    host.removeEventListener('pointerdown', down);
    host.removeEventListener('pointermove', move);
    host.removeEventListener('pointerup', up);
    host.removeEventListener('pointercancel', lost);
    host.removeEventListener('wheel', wheel);
    host.removeEventListener('dblclick', double);
    host.removeEventListener('contextmenu', menu);
  };
}

/** Zoom for each pixel of a pinch. */
const PINCH = 0.01;

/** A wheel goes up or down by many pixels at once; two fingers go any way, in steps of a few or of parts of one. */
export const isTrackpad = ({ deltaMode, deltaX, deltaY }: Pick<WheelEvent, 'deltaMode' | 'deltaX' | 'deltaY'>): boolean => deltaMode === 0 && (deltaX !== 0 || !Number.isInteger(deltaY) || Math.abs(deltaY) < 40);

const clamp = (v: number, most: number) => Math.max(-most, Math.min(most, v));
