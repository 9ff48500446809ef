import { describe, expect, it } from 'vitest';
import { lineOf, type Place, type RimPlace, stretchOf } from './rims';
import { type RimEvent, type RimsEffect, rimsTool } from './rimsTool';

const SQUARE: Place[] = [
  [0, 0, 0],
  [10, 0, 0],
  [10, 10, 0],
  [0, 10, 0],
];
const at = (corner: number, rim = 'a'): RimPlace => ({ rim, corner, pointMm: SQUARE[corner]! });

/** What comes of events, one after the other. */
function done(...events: RimEvent[]): { effects: RimsEffect[]; pending: unknown } {
  let state = rimsTool.initial;
  const effects: RimsEffect[] = [];
  for (const event of events) {
    const next = rimsTool.step(state, event);
    state = next.state;
    effects.push(...next.effects);
  }
  return { effects, pending: state.pending };
}

const click = (rim: RimPlace | null, inHand: RimPlace | null = null): RimEvent[] => [
  { type: 'down', at: { x: 5, y: 5 }, rim },
  { type: 'up', at: { x: 5, y: 5 }, rim, inHand },
];
const drag = (from: RimPlace, to: RimPlace): RimEvent[] => [
  { type: 'down', at: { x: 0, y: 0 }, rim: from },
  { type: 'move', at: { x: 30, y: 0 }, inHand: to },
  { type: 'up', at: { x: 30, y: 0 }, rim: to, inHand: to },
];

describe('rims in the view', () => {
  it('a click on a rim closes it, one beside all rims is told', () => {
    expect(done(...click(at(1))).effects).toEqual([{ type: 'close', rim: at(1) }]);
    expect(done(...click(null)).effects).toEqual([{ type: 'missed', at: { x: 5, y: 5 } }]);
  });
  it('a double click leaves a rim open', () => {
    expect(done({ type: 'double', rim: at(2) }).effects).toEqual([{ type: 'leaveOpen', rim: at(2) }]);
  });
  it('a stretch that was dragged and a click on a side close that part', () => {
    const { effects, pending } = done(...drag(at(0), at(2)), ...click(null, at(1)));
    expect(effects).toEqual([{ type: 'part', part: { from: at(0), to: at(2), side: at(1) } }]);
    expect(pending).toBeNull();
  });
  it('a click on an end of the stretch says no side, and the stretch stays', () => {
    const { effects, pending } = done(...drag(at(0), at(2)), ...click(at(2), at(2)));
    expect(effects).toEqual([]);
    expect(pending).toEqual({ from: at(0), to: at(2) });
  });
  it('two stretches make a strip, on one rim or on two', () => {
    expect(done(...drag(at(0), at(1)), ...drag(at(2, 'b'), at(3, 'b'))).effects).toEqual([
      {
        type: 'strip',
        strip: [
          { from: at(0), to: at(1) },
          { from: at(2, 'b'), to: at(3, 'b') },
        ],
      },
    ]);
  });
  it('a click on another rim while a stretch waits closes that one and leaves the stretch', () => {
    const { effects, pending } = done(...drag(at(0), at(1)), ...click(at(2, 'b'), at(3)));
    expect(effects).toEqual([{ type: 'close', rim: at(2, 'b') }]);
    expect(pending).not.toBeNull();
  });
  it('a drag that comes back, or begins beside all rims, is nothing', () => {
    expect(done(...drag(at(1), at(1)))).toEqual({ effects: [], pending: null });
    expect(done({ type: 'down', at: { x: 0, y: 0 }, rim: null }, { type: 'move', at: { x: 30, y: 0 } }, { type: 'up', at: { x: 30, y: 0 }, rim: at(1) })).toEqual({ effects: [], pending: null });
  });
  it('what waits is taken back first, then what was told before; Esc drops what waits alone', () => {
    expect(done(...drag(at(0), at(1)), { type: 'removeLast' })).toEqual({ effects: [], pending: null });
    expect(done({ type: 'removeLast' }).effects).toEqual([{ type: 'takeBack' }]);
    expect(done(...drag(at(0), at(1)), { type: 'cancel' })).toEqual({ effects: [], pending: null });
  });
});

describe('the line of a stretch', () => {
  it('goes the shorter way', () => {
    expect(lineOf(SQUARE, { from: at(0), to: at(1) })).toEqual([SQUARE[0], SQUARE[1]]);
    expect(lineOf(SQUARE, { from: at(1), to: at(0) })).toEqual([SQUARE[0], SQUARE[1]]);
  });
  it('goes the way with the side on it', () => {
    expect(lineOf(SQUARE, { from: at(0), to: at(1) }, at(2))).toEqual([SQUARE[1], SQUARE[2], SQUARE[3], SQUARE[0]]);
  });
  it('a stretch by its first corner and its length has a corner on either side, round the end of the list too', () => {
    const { stretch, side, rest } = stretchOf('a', SQUARE, 3, 2);
    expect([stretch.from, stretch.to, side, rest]).toEqual([at(3), at(1), at(0), at(2)]);
    expect(lineOf(SQUARE, stretch, side)).toEqual([SQUARE[3], SQUARE[0], SQUARE[1]]);
    expect(lineOf(SQUARE, stretch, rest)).toEqual([SQUARE[1], SQUARE[2], SQUARE[3]]);
  });
});
