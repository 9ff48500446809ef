import { describe, expect, it } from 'vitest';
import { type Box, dragged, handlesFor, motionOf, placeOf, type Ray, type Vec } from '../../tools/cropBox/box';
import { handledBy } from './handled';
import { boxAt, valuesOf } from './moveBox';

const start: Box = { centre: [10, -5, 20], size: [120, 70, 80], turn: [0, 0, 0] };
const downOn = (x: number, y: number): Ray => ({ origin: [x, y, 500], direction: [0, 0, -1] });
const moved = (m: number[], [x, y, z]: Vec): number[] => [0, 1, 2].map((r) => m[4 * r]! * x + m[4 * r + 1]! * y + m[4 * r + 2]! * z + m[4 * r + 3]!);

describe('a box that stands for what moves', () => {
  it('and the typed values say the same', () => {
    for (const values of [
      { shiftX: 3, shiftY: -2.5, shiftZ: 0, turnX: 10, turnY: -20, turnZ: 30 },
      { shiftX: 0, shiftY: 0, shiftZ: 7, turnX: 0, turnY: 0, turnZ: 0 },
    ]) {
      const box = boxAt(start, 'move', values);
      expect(valuesOf(start, 'move', box)).toEqual(values);
      expect(boxAt(start, 'move', valuesOf(start, 'move', box))).toEqual(box);
    }
    expect(valuesOf(start, 'shift', boxAt(start, 'shift', { x: 1.5, y: 0, z: -4 }))).toEqual({ x: 1.5, y: 0, z: -4 });
    expect(valuesOf(start, 'turn', boxAt(start, 'turn', { axis: 'y', angle: 135 }))).toEqual({ axis: 'y', angle: 135 });
  });
  it('moves about its middle and then shifts, X before Y before Z', () => {
    const m = motionOf(start, boxAt(start, 'move', { shiftX: 1, turnX: 90, turnZ: 90 }));
    expect(moved(m, start.centre).map((v) => Math.round(1e9 * v) / 1e9)).toEqual([11, -5, 20]);
    // Y of it goes up by the first turn and stays there in the second; X goes along Y.
    expect(moved(m, [10, -4, 20]).map((v) => Math.round(1e9 * v) / 1e9)).toEqual([11, -5, 21]);
    expect(moved(m, [11, -5, 20]).map((v) => Math.round(1e9 * v) / 1e9)).toEqual([11, -4, 20]);
  });
  it('is shifted along its own axis by an arrow, and not resized', () => {
    const arrow = { kind: 'face', axis: 0, side: -1 } as const;
    const box = dragged(start, arrow, downOn(0, 0), downOn(12, 40), 'move');
    expect(box).toEqual({ ...start, centre: [22, -5, 20] });
    const [x, y] = placeOf({ ...start, turn: [0, 0, 90] }, arrow);
    expect(dragged({ ...start, turn: [0, 0, 90] }, arrow, downOn(x, y), downOn(x, y + 3), 'shift').centre[1]).toBeCloseTo(-2, 9);
  });
  it('turns about one axis as far as it likes, and another ring begins anew', () => {
    const ring = { kind: 'turn', axis: 2 } as const;
    const round = (angle: number) => downOn(10 + 50 * Math.cos((angle * Math.PI) / 180), -5 + 50 * Math.sin((angle * Math.PI) / 180));
    let box = start;
    for (let k = 0; k < 5; k++) box = dragged(box, ring, round(20 * k), round(20 * k + 50), 'turn');
    expect(box.turn[2]).toBeCloseTo(-110, 9);
    const other = dragged({ ...start, turn: [25, 0, 0] }, ring, round(0), round(30), 'turn');
    expect(other.turn.map((t) => Math.round(1e6 * t) / 1e6)).toEqual([0, 0, 30]);
  });
  it('has arrows, rings and a middle as far as they are of use', () => {
    expect(handlesFor('turn').map((h) => h.kind)).toEqual(['turn', 'turn', 'turn']);
    expect(handlesFor('shift').some((h) => h.kind === 'turn')).toBe(false);
    expect(handlesFor('move')).toHaveLength(10);
  });
  it('stands around bodies where there are any, about the origin where turns leave it', () => {
    const at = (x: number) => [1, 0, 0, x, 0, 1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1];
    const snapshot = { passes: [{ id: 'p', transform: at(0) }], bodies: [{ id: 'b', transform: at(1) }], datums: [], suggestions: {}, oriented: false } as never;
    expect(handledBy('turn', { about: 'origin' }, snapshot, ['p', 'b'], null)).toMatchObject({ use: 'turn', moves: ['p', 'b'], around: ['b'], about: [0, 0, 0] });
    expect(handledBy('turn', { about: 'middle' }, snapshot, ['p', 'b'], null)?.about).toBeNull();
    expect(handledBy('move', { moving: 'p' }, snapshot, ['p', 'b'], [1, 2, 3])).toMatchObject({ use: 'move', moves: ['p'], around: ['p'], about: [1, 2, 3] });
    expect(handledBy('move', {}, snapshot, ['p', 'b'], null)?.around).toEqual([]);
    const later = { passes: [], bodies: [{ id: 'b', transform: at(9) }], datums: [], suggestions: {}, oriented: false } as never;
    expect(handledBy('shift', {}, later, ['p', 'b'], null)?.where).not.toBe(handledBy('shift', {}, snapshot, ['p', 'b'], null)?.where);
    expect(handledBy('fuse', {}, snapshot, ['p', 'b'], null)).toBeNull();
  });
});
