import { type Box, type BoxUse, dragged, type Handle, type Ray } from './box';

export type CropBoxState = { name: 'idle'; box: Box | null } | { name: 'dragging'; box: Box; start: Box; handle: Handle; from: Ray; use: BoxUse };

/** Pointer events that know the ray under the pointer, and the handle that a press is on. */
export type CropBoxEvent = { type: 'down'; ray: Ray; handle: Handle | null; use?: BoxUse } | { type: 'move'; ray: Ray } | { type: 'up' } | { type: 'cancel' } | { type: 'interrupt' } | { type: 'set'; box: Box | null };

export type CropBoxEffect = { type: 'showBox'; box: Box | null };

/** A box with handles: press one, drag, let go; Esc gives back the box as it was before the drag. */
export function stepCropBox(state: CropBoxState, event: CropBoxEvent): { state: CropBoxState; effects: CropBoxEffect[] } {
  const show = (next: CropBoxState) => ({ state: next, effects: [{ type: 'showBox', box: next.box } as const] });
  switch (event.type) {
    case 'set':
      return show({ name: 'idle', box: event.box });
    case 'down':
      return state.box && event.handle ? { state: { name: 'dragging', box: state.box, start: state.box, handle: event.handle, from: event.ray, use: event.use ?? 'size' }, effects: [] } : { state, effects: [] };
    case 'move':
      return state.name === 'dragging' ? show({ ...state, box: dragged(state.start, state.handle, state.from, event.ray, state.use) }) : { state, effects: [] };
    case 'up':
      return { state: { name: 'idle', box: state.box }, effects: [] };
    case 'cancel':
    case 'interrupt':
      return state.name === 'dragging' ? show({ name: 'idle', box: state.start }) : { state, effects: [] };
  }
}
