import { describe, expect, it } from 'vitest';
import type { BodyItem } from '../../api/types';
import { listedHoles, meantOutlines, nearestHole, wishesToSend, wishFor, withWish } from './holes';

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
  it('takes a click for the nearest rim, not for the nearest middle', () => {
    expect(nearestHole([31, 0, 0], holes)?.diameter).toBe(40);
    expect(nearestHole([4, 0, 0], holes)?.diameter).toBe(6);
    expect(nearestHole([0, 0, 0], [])).toBeUndefined();
  });
});
