import { fitRange } from '../features/orient/fitRange';
import { boxUseOf } from '../features/orient/handled';
import { moduleOf } from '../operations';
import { type RefObject, useCallback, useEffect, useRef } from 'react';
import type { BoxUse } from '../tools/cropBox/box';
import { type CropBoxEvent, type CropBoxState, stepCropBox } from '../tools/cropBox/cropBoxTool';
import type { ScreenPoint, ToolEvent } from '../tools/events';
import { clickTool } from '../tools/click/clickTool';
import { isDrawn } from '../state/view/store';
import type { Viewport } from '../viewport/Viewport';
import { useView, useWorkspace } from '../state/context';
import { usePicking } from './usePicking';
import { useRimTool } from './useRimTool';
import { useSelecting } from './useSelecting';

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

/** Joins the active tool with the view: events in, effects out. */
export function useTools(viewport: RefObject<Viewport | null>, overlay: RefObject<SVGPolylineElement | null>) {
  const { store, operations } = useWorkspace();
  const open = useView((s) => s.openOperation);
  const datumBy = useView((s) => s.datumBy);
  const stated = operations.find((o) => o.name === open)?.parameters.find((p) => p.picks === 'points' || p.picks === 'pairs' || p.picks === 'lengths' || p.picks === 'rims' || p.picks === 'selection' || p.picks === 'box')?.picks ?? null;
  const { presses } = moduleOf(open);
  const picks = presses ? presses(datumBy, stated) : stated;
  const picking = usePicking(viewport);
  const rims = useRimTool(viewport);
  const selecting = useSelecting(viewport, overlay);
  const clickState = useRef(clickTool.initial);
  const boxState = useRef<CropBoxState>({ name: 'idle', box: null });

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
    picking.reset();
    clickState.current = clickTool.initial;
    rims.reset();
    selecting.reset();
    overlay.current?.setAttribute('points', '');
    viewport.current?.highlightFaces(null, []);
  }, [open]);
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.cropBox !== before.cropBox) {
          viewport.current?.setCropBox(state.cropBox, boxUseOf(state.openOperation));
          // A box that was typed, or begun anew, is what the next drag starts from.
          if (boxState.current.name === 'idle') boxState.current = { name: 'idle', box: state.cropBox };
        }
        if (state.hiddenOutside === null && before.hiddenOutside !== null) viewport.current?.hideOutside(null);
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
    [store, viewport],
  );
  // Where handles move things, a press on one drags it; anywhere else it is a pick, if the operation takes any.
  const sendHandles = useCallback(
    (event: ToolEvent) => {
      const onHandle = event.type === 'down' ? viewport.current?.handleAt(event.at) : boxState.current.name === 'dragging';
      if (onHandle) sendBox(event);
      else if (picks) picking.send(event);
    },
    [viewport, sendBox, picking.send, picks],
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
  const send = hasHandles ? sendHandles : reads ? sendClick : picks === 'selection' ? selecting.send : picks === 'box' ? sendBox : picks === 'rims' ? rims.send : picks ? picking.send : chooses ? sendClick : null;
  const draws = (at: ScreenPoint): boolean => {
    if (picks === 'rims') return rims.draws(at);
    if (picks && picks !== 'selection' && picks !== 'box' && !hasHandles) return picking.pickAt(at) !== null;
    return picks === 'box' || hasHandles ? viewport.current?.handleAt(at) !== null : isDrawn(store.getState().selectTool);
  };
  return { send, sendKey: send ?? picking.send, draws, picks, double: picks === 'rims' ? rims.double : null, hover: picks === 'rims' ? rims.hover : null };
}
