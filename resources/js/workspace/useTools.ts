import { fitRange } from '../features/orient/fitRange';
import { boxUseOf } from '../features/orient/handled';
import { moduleOf } from '../operations';
import { type RefObject, useCallback, useEffect, useRef } from 'react';
import type { BoxUse } from '../tools/cropBox/box';
import { type CropBoxEvent, type CropBoxState, stepCropBox } from '../tools/cropBox/cropBoxTool';
import type { Hit, ScreenPoint, ToolEvent } from '../tools/events';
import { clickTool } from '../tools/click/clickTool';
import { type OutlineState, outlineTool } from '../tools/outline/outlineTool';
import { type PickPointsState, pickPointsTool } from '../tools/pickPoints/pickPointsTool';
import { isDrawn } from '../state/view/store';
import { combine, countOf, type Marks, NOTHING, toSelection } from '../viewport/marks';
import { polygonMask, strokeMask } from '../viewport/screenMask';
import { areaAt, pieceAt } from '../viewport/selections';
import type { Viewport } from '../viewport/Viewport';
import { useView, useWorkspace } from '../state/context';

/** A pointer event with the ray and the handle under it. */
function boxEvent(event: ToolEvent, view: Viewport, use: BoxUse): CropBoxEvent {
  switch (event.type) {
    case 'down':
      return { type: 'down', ray: view.rayAt(event.at), handle: view.handleAt(event.at), use };
    case 'move':
      return { type: 'move', ray: view.rayAt(event.at) };
    case 'up':
    case 'interrupt':
      return { type: event.type };
    default:
      return { type: 'cancel' };
  }
}

const picking = (picks: readonly Hit[]): PickPointsState => ({ ...pickPointsTool.initial, name: picks.length > 0 ? 'picking' : 'idle', picks });

/** Joins the active tool with the view: events in, effects out. */
export function useTools(viewport: RefObject<Viewport | null>, overlay: RefObject<SVGPolylineElement | null>) {
  const { store, operations, selected } = useWorkspace();
  const open = useView((s) => s.openOperation);
  const datumBy = useView((s) => s.datumBy);
  const stated = operations.find((o) => o.name === open)?.parameters.find((p) => p.picks === 'points' || p.picks === 'pairs' || p.picks === 'lengths' || p.picks === 'rims' || p.picks === 'selection' || p.picks === 'box')?.picks ?? null;
  const { presses } = moduleOf(open);
  const picks = presses ? presses(datumBy, stated) : stated;
  const pickState = useRef(pickPointsTool.initial);
  const outlineState = useRef<OutlineState>({ name: 'idle' });
  const clickState = useRef(clickTool.initial);
  const boxState = useRef<CropBoxState>({ name: 'idle', box: null });

  const sendPick = useCallback(
    (event: ToolEvent) => {
      const { state, effects } = pickPointsTool.step(pickState.current, event);
      pickState.current = state;
      for (const effect of effects) {
        if (effect.type === 'showPicks') store.setState({ picks: effect.picks });
        else document.querySelector<HTMLButtonElement>('[data-apply]')?.click();
      }
    },
    [store],
  );
  /** Joins what a gesture found to the selection and shows it. */
  const select = useCallback(
    (found: Marks, behind: Marks = NOTHING) => {
      const view = viewport.current;
      if (!view) return;
      selected.current = combine(selected.current, found, store.getState().selectMode);
      view.showMarks(selected.current, behind);
      store.setState({ selection: toSelection(selected.current), behind: [...behind.values()].reduce((n, m) => n + countOf(m), 0) });
    },
    [store, viewport, selected],
  );
  const sendSelect = useCallback(
    (event: ToolEvent) => {
      const { selectTool, brush, spread, through } = store.getState();
      const view = viewport.current;
      if (!selectTool || !view) return;
      if (!isDrawn(selectTool)) {
        const { state, effects } = clickTool.step(clickState.current, event);
        clickState.current = state;
        for (const { hit } of effects) select(selectTool === 'piece' ? pieceAt(view, hit.itemId, hit.index) : areaAt(view, hit.itemId, hit.index, spread.angle, spread.withinMm ?? Number.POSITIVE_INFINITY));
        return;
      }
      const { state, effects } = outlineTool(selectTool).step(outlineState.current, event);
      outlineState.current = state;
      const radius = brush.unit === 'px' ? brush.size / 2 : brush.size / 2 / view.mmPerPixel();
      for (const effect of effects) {
        const line = overlay.current;
        if (effect.type === 'showPath') {
          line?.setAttribute('points', effect.path.map((p) => `${p.x},${p.y}`).join(' '));
          line?.setAttribute('stroke-width', selectTool === 'brush' ? String(2 * radius) : '1.5');
          line?.setAttribute('stroke-opacity', selectTool === 'brush' ? '0.35' : '1');
          line?.setAttribute('fill-opacity', selectTool === 'brush' ? '0' : '0.15');
        } else if (effect.type === 'clearOverlay') line?.setAttribute('points', '');
        else {
          const { found, behind } = view.markInside((w, h) => (selectTool === 'brush' ? strokeMask(effect.path, radius, w, h) : polygonMask(effect.path, w, h)), through);
          select(found, behind);
        }
      }
    },
    [store, viewport, overlay, select],
  );

  const sendBox = useCallback(
    (event: ToolEvent) => {
      const view = viewport.current;
      if (!view) return;
      const { state, effects } = stepCropBox(boxState.current, boxEvent(event, view, boxUseOf(store.getState().openOperation)));
      boxState.current = state;
      for (const { box } of effects) store.setState((s) => (boxUseOf(s.openOperation) === 'size' ? { cropBox: box } : { boxDragged: box }));
    },
    [store, viewport],
  );

  // Another operation, another gesture: the old one ends as if Esc were pressed.
  // biome-ignore lint/correctness/useExhaustiveDependencies: on change of the operation
  useEffect(() => {
    pickState.current = picking(store.getState().picks);
    outlineState.current = { name: 'idle' };
    clickState.current = clickTool.initial;
    overlay.current?.setAttribute('points', '');
    viewport.current?.highlightFaces(null, []);
  }, [open]);
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.picks !== before.picks || state.pickHint !== before.pickHint) {
          // Picks that another had made are gone on with.
          if (state.picks !== pickState.current.picks) pickState.current = picking(state.picks);
          viewport.current?.setMarks([
            ...state.picks.map((pick: Hit, k) => ({
              point: pick.pointMm,
              itemId: pick.itemId,
              text: String(moduleOf(state.openOperation).picksInPairs ? 1 + (k >> 1) : k + 1),
              colour: moduleOf(state.openOperation).pickColour?.(k) ?? '#e0b04c',
            })),
            ...(state.pickHint ? [{ point: state.pickHint.pointMm, itemId: state.pickHint.itemId, text: '+', colour: '#fff6dc' }] : []),
          ]);
        }
        if (state.selection !== before.selection && state.selection.length === 0) {
          selected.current = NOTHING;
          viewport.current?.showMarks(NOTHING);
        }
        if (state.cropBox !== before.cropBox) {
          viewport.current?.setCropBox(state.cropBox, boxUseOf(state.openOperation));
          // A box that was typed, or begun anew, is what the next drag starts from.
          if (boxState.current.name === 'idle') boxState.current = { name: 'idle', box: state.cropBox };
        }
        if (state.hiddenOutside === null && before.hiddenOutside !== null) viewport.current?.hideOutside(null);
        if (state.selectTool !== before.selectTool) {
          outlineState.current = { name: 'idle' };
          overlay.current?.setAttribute('points', '');
        }
        if (state.framePreview !== before.framePreview) {
          viewport.current?.setFrame(state.framePreview?.whole ? state.framePreview.transform : null);
          viewport.current?.setAxes(state.framePreview !== null);
        }
        if (state.datumPreview !== before.datumPreview) {
          const preview = state.datumPreview;
          const most = preview ? fitRange(preview.datum.rms) : 1;
          viewport.current?.highlightFaces(
            preview?.bodyId ?? null,
            preview?.faces ?? [],
            preview?.outside.map((v) => v / most),
          );
        }
      }),
    [store, viewport, overlay, selected],
  );
  // Where handles move things, a press on one drags it; anywhere else it is a pick, if the operation takes any.
  const sendHandles = useCallback(
    (event: ToolEvent) => {
      const onHandle = event.type === 'down' ? viewport.current?.handleAt(event.at) : boxState.current.name === 'dragging';
      if (onHandle) sendBox(event);
      else if (picks) sendPick(event);
    },
    [viewport, sendBox, sendPick, picks],
  );
  // With no tool open a click chooses the shape that lies there; on a part that is coloured by a map it reads its figure.
  const chooses = useView((s) => (s.stage === 'lighten' && s.openOperation === null) || s.map !== null);
  const sendClick = useCallback(
    (event: ToolEvent) => {
      const { state, effects } = clickTool.step(clickState.current, event);
      clickState.current = state;
      for (const { hit } of effects) store.setState({ clicked: { hit, more: event.type === 'up' && event.more === true } });
    },
    [store],
  );
  const hasHandles = boxUseOf(open) !== 'size';
  // Without a tool in hand a press selects nothing, and reads the colours of a map where there are any.
  const reads = useView((s) => picks === 'selection' && chooses && s.selectTool === null);
  const send = hasHandles ? sendHandles : reads ? sendClick : picks === 'selection' ? sendSelect : picks === 'box' ? sendBox : picks ? sendPick : chooses ? sendClick : null;
  return { send, sendKey: send ?? sendPick, draws: (at: ScreenPoint) => (picks === 'box' || hasHandles ? viewport.current?.handleAt(at) !== null : isDrawn(store.getState().selectTool)), picks };
}
