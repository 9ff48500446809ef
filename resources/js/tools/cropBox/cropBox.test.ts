import { describe, expect, it } from 'vitest';
import { axesOf, type Box, dot, dragged, HANDLES, LEAST_MM, placeOf, type Ray, type Vec } from './box';
import { stepCropBox } from './cropBoxTool';

const box: Box = { centre: [1, 2, 3], size: [10, 20, 30], turn: [0, 0, 0] };
/** A ray straight down on a place. */
const downOn = (x: number, y: number): Ray => ({ origin: [x, y, 100], direction: [0, 0, -1] });
const close = (a: readonly number[], b: readonly number[], digits = 9) => {
  for (const [k, v] of a.entries()) expect(v).toBeCloseTo(b[k] ?? Number.NaN, digits);
};

describe('the box', () => {
  it('has unit axes at right angles whatever its turns', () => {
    for (const turn of [
      [0, 0, 0],
      [30, 0, 0],
      [10, 20, 30],
      [-170, 89, 5],
      [0, 90, 0],
    ] as Vec[]) {
      const [x, y, z] = axesOf({ turn });
      close([dot(x, x), dot(y, y), dot(z, z), dot(x, y), dot(y, z), dot(z, x)], [1, 1, 1, 0, 0, 0]);
    }
    const [x] = axesOf({ turn: [0, 0, 90] });
    close(x, [0, 1, 0]);
    close(axesOf({ turn: [90, 0, 90] })[1], [0, 0, 1]);
  });
  it('grows on the side that is dragged and leaves the other where it was', () => {
    const grown = dragged(box, { kind: 'face', axis: 0, side: 1 }, downOn(6, 2), downOn(10, 50));
    close(grown.size, [14, 20, 30]);
    close(placeOf(grown, { kind: 'face', axis: 0, side: -1 }), placeOf(box, { kind: 'face', axis: 0, side: -1 }));
    const other = dragged(box, { kind: 'face', axis: 1, side: -1 }, downOn(1, -8), downOn(1, -5));
    close(other.size, [10, 17, 30]);
    close(placeOf(other, { kind: 'face', axis: 1, side: 1 }), [1, 12, 3]);
  });
  it('is never dragged inside out, and a line of sight along the axis changes nothing', () => {
    expect(dragged(box, { kind: 'face', axis: 0, side: 1 }, downOn(6, 2), downOn(-500, 2)).size[0]).toBe(LEAST_MM);
    expect(dragged(box, { kind: 'face', axis: 2, side: 1 }, downOn(1, 2), downOn(4, 2))).toEqual(box);
  });
  it('turns about its own axis by the angle the pointer goes round its middle', () => {
    const quarter = dragged(box, { kind: 'turn', axis: 2 }, downOn(11, 2), downOn(1, 12));
    close(quarter.turn, [0, 0, 90]);
    close(quarter.centre, box.centre);
    expect(dragged(box, { kind: 'turn', axis: 2 }, downOn(11, 2), downOn(11, 12)).turn[2]).toBeCloseTo(45, 9);
  });
  it('keeps its axes when its turns are read back from them', () => {
    for (const turn of [
      [10, 20, 30],
      [-100, 45, 170],
      [5, 89.9, 5],
      [30, 90, 0],
      [20, -90, 0],
    ] as Vec[]) {
      const start: Box = { ...box, turn };
      const still = dragged(start, { kind: 'turn', axis: 1 }, { origin: [50, 60, 70], direction: [-0.6, -0.5, -0.62] }, { origin: [50, 60, 70], direction: [-0.6, -0.5, -0.62] });
      for (const [k, axis] of axesOf(still).entries()) close(axis, axesOf(start)[k] ?? [], 6);
    }
  });
  it('moves with its middle in the plane of the view', () => {
    close(dragged(box, { kind: 'middle' }, downOn(1, 2), downOn(5, 9)).centre, [5, 9, 3]);
  });
  it('has ten handles at ten places', () => {
    expect(new Set(HANDLES.map((h) => placeOf(box, h).join())).size).toBe(10);
  });
});

describe('dragging', () => {
  const handle = { kind: 'face', axis: 0, side: 1 } as const;
  it('follows the pointer and ends when the button is let go', () => {
    let state = stepCropBox({ name: 'idle', box }, { type: 'down', ray: downOn(6, 2), handle }).state;
    const moved = stepCropBox(state, { type: 'move', ray: downOn(8, 2) });
    expect(moved.effects[0]?.box?.size[0]).toBeCloseTo(12, 9);
    state = stepCropBox(moved.state, { type: 'up' }).state;
    expect(state.name).toBe('idle');
    expect(stepCropBox(state, { type: 'move', ray: downOn(90, 2) }).effects).toEqual([]);
  });
  it('gives the box back on Esc and on an interruption, and needs a handle to begin', () => {
    for (const type of ['cancel', 'interrupt'] as const) {
      const begun = stepCropBox({ name: 'idle', box }, { type: 'down', ray: downOn(6, 2), handle }).state;
      const moved = stepCropBox(begun, { type: 'move', ray: downOn(80, 2) }).state;
      expect(stepCropBox(moved, { type }).state).toEqual({ name: 'idle', box });
    }
    expect(stepCropBox({ name: 'idle', box }, { type: 'down', ray: downOn(0, 0), handle: null }).state.name).toBe('idle');
    expect(stepCropBox({ name: 'idle', box: null }, { type: 'down', ray: downOn(0, 0), handle }).state.name).toBe('idle');
  });
});
