import { Vector3 } from 'three';
import { describe, expect, it } from 'vitest';
import { RAMP, rampAt } from './palette';
import { shadeColours, shadeWithin } from './shades';

const lightness = (colour: number) => 0.2126 * ((colour >> 16) & 255) + 0.7152 * ((colour >> 8) & 255) + 0.0722 * (colour & 255);

describe('the shade at a place', () => {
  const corners = [new Vector3(0, 0, 0), new Vector3(10, 0, 0), new Vector3(0, 10, 0)];
  it('goes from corner to corner', () => {
    expect(shadeWithin(corners, [10, 110, 10], new Vector3(5, 0, 0))).toBeCloseTo(60);
    expect(shadeWithin(corners, [10, 110, 10], new Vector3(0, 10, 0))).toBeCloseTo(10);
  });
  it('leaves corners without a figure out', () => {
    expect(shadeWithin(corners, [0, 110, 0], new Vector3(1, 0, 0))).toBeCloseTo(110);
    expect(shadeWithin(corners, [0, 0, 0], new Vector3(1, 1, 0))).toBeNull();
  });
});

describe('the ramp of maps', () => {
  it('begins and ends with its own colours and meets each in between', () => {
    for (const [k, colour] of RAMP.entries()) expect(rampAt(k / (RAMP.length - 1))).toBe(colour);
    expect(rampAt(-3)).toBe(RAMP[0]);
    expect(rampAt(7)).toBe(RAMP.at(-1));
  });
  it('grows darker all the way, so that it reads without hue', () => {
    for (let k = 1; k <= 100; k++) expect(lightness(rampAt(k / 100))).toBeLessThan(lightness(rampAt((k - 1) / 100)));
  });
  it('gives a point without a figure a grey of its own', () => {
    const colours = shadeColours(3, (i) => [0, 1, 255][i]!).array;
    expect(colours[0]! - colours[2]!).toBeLessThan(20);
    expect(colours[3]).toBeGreaterThan(colours[6]!);
    expect(colours).toHaveLength(9);
  });
});
