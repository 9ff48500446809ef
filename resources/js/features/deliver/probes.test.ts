import { describe, expect, it } from 'vitest';
import { shadeInWords } from './probes';

describe('a figure read from the colours', () => {
  const signed = { from: -0.3, to: 0.3, unit: 'mm' };
  it('is as exact as the shades are', () => {
    expect(shadeInWords(128, signed)).toBe('0.000 mm');
    expect(shadeInWords(200, signed)).toBe('+0.170 mm');
    expect(shadeInWords(64, signed)).toBe('-0.151 mm');
    expect(shadeInWords(101, { from: 0, to: 25.4, unit: 'mm' })).toBe('10.0 mm');
  });
  it('says when it lies beyond the colours, and nothing where there is none', () => {
    expect(shadeInWords(255, signed)).toBe('at least +0.300 mm');
    expect(shadeInWords(1, signed)).toBe('at most -0.300 mm');
    expect(shadeInWords(1, { from: 0, to: 1, unit: 'mm' })).toBe('0.000 mm');
    expect(shadeInWords(0, signed)).toBeNull();
    expect(shadeInWords(null, signed)).toBeNull();
  });
});
