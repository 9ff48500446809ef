import { describe, expect, it } from 'vitest';
import { shareOf, spreadOrder } from './budget';

describe('points drawn by budget', () => {
  it('come in an order that holds each kept point once', () => {
    const mask = new Uint8Array(1000).map((_, i) => (i % 7 === 0 ? 0 : 1));
    const order = spreadOrder(1000, mask);
    expect([...order].sort((a, b) => a - b)).toEqual(Array.from({ length: 1000 }, (_, i) => i).filter((i) => i % 7 !== 0));
    expect([...spreadOrder(1000, mask, false)].sort((a, b) => a - b)).toEqual(Array.from({ length: 143 }, (_, i) => 7 * i));
    expect(spreadOrder(5, null).length).toBe(5);
  });
  it('are spread over the whole cloud from the beginning on', () => {
    const order = spreadOrder(16000, null);
    for (const share of [1 / 16, 1 / 8, 1 / 4, 1 / 2]) {
      const tenths = new Array<number>(10).fill(0);
      for (const i of order.subarray(0, 16000 * share)) tenths[Math.floor(i / 1600)]!++;
      expect(Math.max(...tenths) - Math.min(...tenths)).toBeLessThanOrEqual(2);
    }
  });
  it('are all of them when the budget allows', () => {
    expect(shareOf(100, 200)).toBe(1);
    expect(shareOf(400, 100)).toBe(0.25);
  });
});
