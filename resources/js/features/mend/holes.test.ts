import { describe, expect, it } from 'vitest';
import type { BodyItem } from '../../api/types';
import { NOTHING_SAID, takenBack, type Wish, withPart, withStrip, without, withTyped, withWishes } from '../../tools/rims/closing';
import { lineOf, type RimPlace } from '../../tools/rims/rims';
import { areaOf, closingToSend, drawnBefore, keyOf, type ListedHole, listedHoles, meantOutlines, wishesOf, wishFor } from './holes';

const wishesToSend = (holes: readonly ListedHole[], wishes: Record<string, Wish>) => closingToSend(holes, withWishes(NOTHING_SAID, wishes));
const withWish = (hole: ListedHole, wish: Wish, wishes: Record<string, Wish>) => ({ ...wishes, [keyOf(hole)]: wish });

const ring = (x: number, radius: number, leftOpen = false) => {
  const at = (angle: number): [number, number, number] => [x + radius * Math.cos(angle), radius * Math.sin(angle), 0];
  return { edges: 16, perimeter: 2 * Math.PI * radius, diameter: 2 * radius, centre: [x, 0, 0] as [number, number, number], outline: Array.from({ length: 16 }, (_, k) => at((k * Math.PI) / 8)), leftOpen };
};
const body = (...holes: ReturnType<typeof ring>[]) => ({ name: 'Cap', figures: { holes } }) as unknown as BodyItem;

describe('holes and what shall become of them', () => {
  const [small, wide, kept] = [ring(0, 3), ring(50, 20), ring(200, 5, true)];
  const holes = listedHoles([body(small, wide), body(kept)]);
  const of = (diameter: number) => holes.find((h) => h.diameter === diameter)!;

  const picked = (diameter: number) => ({ at: of(diameter).at, diameter });

  it('lists all bodies, the widest first', () => {
    expect(holes.map((h) => h.diameter)).toEqual([40, 10, 6]);
    expect(holes[0]).toMatchObject({ body: 'Cap', at: [70, 0, 0] });
    expect(listedHoles([{ ...body(), figures: undefined }])).toEqual([]);
  });
  it('closes all but what was left open before, without a word to the server', () => {
    expect(holes.map((h) => wishFor(h, {}))).toEqual(['close', 'open', 'close']);
    expect(wishesToSend(holes, {})).toEqual({});
  });
  it('draws those that stay open, and no others', () => {
    expect(meantOutlines([body(small, wide), body(kept), { ...body(), figures: undefined } as BodyItem])).toEqual([kept.outline]);
  });
  it('names the rims to close once one waits', () => {
    expect(wishesToSend(holes, withWish(of(40), 'later', {}))).toEqual({ rims: [picked(6)] });
  });
  it('names only what is newly left open', () => {
    expect(wishesToSend(holes, withWish(of(6), 'open', {}))).toEqual({ leaveOpen: [picked(6)] });
  });
  it('names a rim to close that was left open before', () => {
    const sent = wishesToSend(holes, withWish(of(10), 'close', {}));
    expect(sent.leaveOpen).toBeUndefined();
    expect(sent.rims).toEqual([picked(40), picked(10), picked(6)]);
  });
  it('can leave all open: an empty list closes none', () => {
    expect(wishesToSend(holes, withWish(of(40), 'open', withWish(of(6), 'later', {})))).toEqual({ rims: [], leaveOpen: [picked(40)] });
  });
  const place = (diameter: number, corner: number): RimPlace => ({ rim: keyOf(of(diameter)), corner, pointMm: of(diameter).outline![corner]! });
  it('sends a part and a strip with the width of their rims, which are not closed whole then', () => {
    const part = { from: place(40, 0), to: place(40, 8), side: place(40, 4) };
    const strip = [
      { from: place(6, 0), to: place(6, 2) },
      { from: place(6, 8), to: place(6, 10) },
    ] as const;
    const closing = withStrip(withPart(NOTHING_SAID, part), strip);
    expect(closingToSend(holes, closing)).toEqual({
      rims: [],
      parts: [{ from: part.from.pointMm, to: part.to.pointMm, side: part.side.pointMm, diameter: 40 }],
      strips: [strip.map((one) => ({ from: one.from.pointMm, to: one.to.pointMm, diameter: 6 }))],
    });
    expect(closingToSend(holes, without(closing, part)).parts).toBeUndefined();
    expect(takenBack(takenBack(closing))).toBe(NOTHING_SAID);
    expect(takenBack(NOTHING_SAID)).toBe(NOTHING_SAID);
  });

  it('takes back a typed width as a whole, however many keys it took', () => {
    const first = withWishes(NOTHING_SAID, { a: 'open' });
    const typed = withTyped(withTyped(first, { a: 'later', b: 'close' }), { a: 'close', b: 'close' });
    expect(typed.wishes).toEqual({ a: 'close', b: 'close' });
    expect(takenBack(typed)).toBe(first);
    const again = withTyped(withWishes(typed, { b: 'later' }), { a: 'later', b: 'later' });
    expect(takenBack(takenBack(again)), 'what was typed after another change is a change of its own').toBe(typed);
  });
  it('what a step was told comes back for the rims that are still as wide, wherever the pick was on them', () => {
    const told = { rims: [{ at: of(40).outline![5]!, diameter: 38 }], leaveOpen: [{ at: of(6).at, diameter: 20 }] };
    expect(wishesOf(told, holes)).toEqual({ [keyOf(of(40))]: 'close', [keyOf(of(6))]: 'later' });
    expect(wishesOf({}, holes)).toEqual({});
  });
  it('parts and strips of a step come back on their rims, and those of a rim that is gone do not', () => {
    const on = (diameter: number, corner: number): RimPlace => ({ rim: keyOf(of(diameter)), corner, pointMm: of(diameter).outline![corner]! });
    const drawn = withStrip(withPart(NOTHING_SAID, { from: on(40, 2), to: on(40, 9), side: on(40, 5) }), [
      { from: on(40, 12), to: on(40, 14) },
      { from: on(6, 0), to: on(6, 3) },
    ]);
    const told = closingToSend(holes, drawn);
    const back = drawnBefore(told, holes);
    expect(closingToSend(holes, { ...drawn, ...back })).toEqual(told);
    expect(lineOf(of(40).outline!, back.parts[0]!, back.parts[0]!.side)).toEqual(lineOf(of(40).outline!, drawn.parts[0]!, drawn.parts[0]!.side));
    expect(lineOf(of(6).outline!, back.strips[0]![1])).toEqual(lineOf(of(6).outline!, drawn.strips[0]![1]));
    expect(drawnBefore(told, listedHoles([body(small)]))).toEqual({ parts: [], strips: [] });
  });
  it('tells how much surface closes a hole', () => {
    expect(areaOf(ring(0, 3).outline)).toBeCloseTo(8 * 9 * Math.sin(Math.PI / 8), 9);
    expect(areaOf(ring(500, 3).outline)).toBeCloseTo(areaOf(ring(0, 3).outline), 6);
  });
});
