import { describe, expect, it } from 'vitest';
import { bandEnds } from './bandEnds';

describe('the marks of a tolerance beside colours', () => {
  it.each([
    [{ from: -0.3, to: 0.3, band: 0.15 }, [25, 75]],
    [{ from: 0, to: 0.4, band: 0.1 }, [25]],
    [{ from: -0.3, to: 0.3, band: 0.3 }, []],
    [{ from: -0.3, to: 0.3, band: null }, []],
    [{ from: 0, to: 0, band: 0.1 }, []],
  ])('%j', (scale, at) => {
    expect(bandEnds(scale).map((v) => Math.round(v))).toEqual(at);
  });
});
