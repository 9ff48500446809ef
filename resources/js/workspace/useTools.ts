import { type RefObject, useCallback, useEffect, useRef } from 'react';
import type { Hit, ToolEvent } from '../tools/events';
import { outlineTool } from '../tools/outline/outlineTool';
import { pickPointsTool } from '../tools/pickPoints/pickPointsTool';
import type { Viewport } from '../viewport/Viewport';
import { useView, useWorkspace } from './context';

/** Joins the active tool with the view: events in, effects out. */
export function useTools(viewport: RefObject<Viewport | null>, overlay: RefObject<SVGPolylineElement | null>) {
  const { store, operations } = useWorkspace();
  const open = useView((s) => s.openOperation);
  const picks = operations.find((o) => o.name === open)?.parameters.find((p) => p.picks === 'points' || p.picks === 'pairs' || p.picks === 'selection')?.picks ?? null;
  const pickState = useRef(pickPointsTool.initial);
  const outlineState = useRef(outlineTool.initial);

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
  const sendOutline = useCallback(
    (event: ToolEvent) => {
      const { state, effects } = outlineTool.step(outlineState.current, event);
      outlineState.current = state;
      for (const effect of effects) {
        if (effect.type === 'showPath') overlay.current?.setAttribute('points', effect.path.map((p) => `${p.x},${p.y}`).join(' '));
        else if (effect.type === 'clearOverlay') overlay.current?.setAttribute('points', '');
        else {
          const selection = viewport.current?.selectInside(effect.path, store.getState().through) ?? [];
          store.setState({ selection, drawing: false });
          viewport.current?.highlightSelection(selection);
        }
      }
    },
    [store, viewport, overlay],
  );

  // Another operation, another gesture: the old one ends as if Esc were pressed.
  // biome-ignore lint/correctness/useExhaustiveDependencies: on change of the operation
  useEffect(() => {
    pickState.current = pickPointsTool.initial;
    outlineState.current = outlineTool.initial;
    overlay.current?.setAttribute('points', '');
    viewport.current?.highlightFaces(null, []);
  }, [open]);
  useEffect(
    () =>
      store.subscribe((state, before) => {
        if (state.picks !== before.picks) {
          if (state.picks.length === 0) pickState.current = pickPointsTool.initial;
          viewport.current?.setMarks(
            state.picks.map((pick: Hit, k) => ({
              point: pick.pointMm,
              text: state.openOperation === 'pair-points' ? String(1 + (k >> 1)) : String(k + 1),
              colour: state.openOperation === 'pair-points' && k % 2 === 1 ? '#7fa8d9' : '#e0b04c',
            })),
          );
        }
        if (state.selection !== before.selection && state.selection.length === 0) viewport.current?.highlightSelection([]);
        if (state.framePreview !== before.framePreview) {
          viewport.current?.setFrame(state.framePreview?.transform ?? null);
          viewport.current?.setAxes(state.framePreview !== null);
        }
        if (state.datumPreview !== before.datumPreview) viewport.current?.highlightFaces(state.datumPreview?.bodyId ?? null, state.datumPreview?.faces ?? []);
      }),
    [store, viewport],
  );
  const send = picks === 'selection' ? sendOutline : picks ? sendPick : null;
  return { send, sendPick, draws: () => store.getState().drawing, picks };
}
