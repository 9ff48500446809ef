import { type RefObject, useCallback, useEffect, useRef } from 'react';
import { useView, useWorkspace } from '../state/context';
import { isDrawn } from '../state/view/store';
import { clickTool } from '../tools/click/clickTool';
import type { ToolEvent } from '../tools/events';
import { type OutlineState, outlineTool } from '../tools/outline/outlineTool';
import { combine, countOf, type Marks, NOTHING, toMarks, toSelection } from '../viewport/marks';
import { polygonMask, strokeMask } from '../viewport/screenMask';
import { areaAt, pieceAt } from '../viewport/selections';
import type { Viewport } from '../viewport/Viewport';

/** Strokes of a selection that can be taken back. */
const STROKES_KEPT = 20;

/** The last outline, with the selection before it and after it. */
interface Outlined {
  shape: (width: number, height: number) => Uint8Array;
  before: Marks;
  after: Marks;
}

/** Joins the tools that select with the view and the store. */
export function useSelecting(viewport: RefObject<Viewport | null>, overlay: RefObject<SVGPolylineElement | null>) {
  const { store, selected } = useWorkspace();
  const outline = useRef<OutlineState>({ name: 'idle' });
  const click = useRef(clickTool.initial);
  /** selections before the last strokes, the last at the end */
  const strokes = useRef<Marks[]>([]);
  const outlined = useRef<Outlined | null>(null);

  const show = useCallback(
    (marks: Marks, behind: Marks = NOTHING) => {
      selected.current = marks;
      viewport.current?.showMarks(marks, behind);
      store.setState({ selection: toSelection(marks), behind: [...behind.values()].reduce((n, m) => n + countOf(m), 0) });
    },
    [store, viewport, selected],
  );
  /** Joins what a gesture found to the selection. */
  const select = useCallback(
    (found: Marks, behind: Marks = NOTHING) => {
      strokes.current = [...strokes.current.slice(-STROKES_KEPT + 1), selected.current];
      show(combine(selected.current, found, store.getState().selectMode), behind);
    },
    [store, selected, show],
  );
  // Asked for the other depth before anything else is done, the same outline is taken anew.
  const through = useView((s) => s.through);
  useEffect(() => {
    const last = outlined.current;
    const view = viewport.current;
    if (!last || !view || selected.current !== last.after) return;
    const { found, behind } = view.markInside(last.shape, through);
    show(combine(last.before, found, store.getState().selectMode), behind);
    outlined.current = { ...last, after: selected.current };
  }, [through, viewport, selected, store, show]);
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.selection !== before.selection && state.selection.length === 0) {
          selected.current = NOTHING;
          viewport.current?.showMarks(NOTHING);
        } else if (state.openOperation !== before.openOperation && state.selection.length > 0) {
          // What was selected for a step comes back with it.
          selected.current = toMarks(state.selection);
          viewport.current?.showMarks(selected.current);
        }
        if (state.selectTool !== before.selectTool) {
          outline.current = { name: 'idle' };
          overlay.current?.setAttribute('points', '');
        }
      }),
    [store, viewport, overlay, selected],
  );
  const draw = useCallback(
    (event: ToolEvent, view: Viewport) => {
      const { selectTool, brush, through } = store.getState();
      if (!isDrawn(selectTool)) return;
      const { state, effects } = outlineTool(selectTool).step(outline.current, event);
      outline.current = state;
      const isBrush = selectTool === 'brush';
      const radius = brush.unit === 'px' ? brush.size / 2 : brush.size / 2 / view.mmPerPixel();
      const line = overlay.current;
      for (const effect of effects) {
        if (effect.type === 'showPath') {
          line?.setAttribute('points', effect.path.map((p) => `${p.x},${p.y}`).join(' '));
          line?.setAttribute('stroke-width', isBrush ? String(2 * radius) : '1.5');
          line?.setAttribute('stroke-opacity', isBrush ? '0.35' : '1');
          line?.setAttribute('fill-opacity', isBrush ? '0' : '0.15');
        } else if (effect.type === 'clearOverlay') line?.setAttribute('points', '');
        else {
          const shape = (w: number, h: number) => (isBrush ? strokeMask(effect.path, radius, w, h) : polygonMask(effect.path, w, h));
          const before = selected.current;
          const { found, behind } = view.markInside(shape, through);
          select(found, behind);
          outlined.current = { shape, before, after: selected.current };
        }
      }
    },
    [store, overlay, selected, select],
  );
  const send = useCallback(
    (event: ToolEvent) => {
      const { selectTool, spread } = store.getState();
      const view = viewport.current;
      if (!view) return;
      if (event.type === 'removeLast' && outline.current.name === 'idle') {
        const before = strokes.current.pop();
        if (before) show(before);
      } else if (isDrawn(selectTool)) draw(event, view);
      else if (selectTool) {
        const { state, effects } = clickTool.step(click.current, event);
        click.current = state;
        for (const { hit } of effects) select(selectTool === 'piece' ? pieceAt(view, hit.itemId, hit.index) : areaAt(view, hit.itemId, hit.index, spread.angle, spread.withinMm ?? Number.POSITIVE_INFINITY));
      }
    },
    [store, viewport, draw, select, show],
  );
  const reset = useCallback(() => {
    outline.current = { name: 'idle' };
    click.current = clickTool.initial;
    strokes.current = [];
    outlined.current = null;
  }, []);
  return { send, reset };
}
