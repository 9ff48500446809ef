import { describe, expect, it } from 'vitest';
import { count, niceLength, parseLength, seconds } from './format';

describe('figures in words', () => {
  it.each([[999, '999'], [1200, '1.2 k'], [214000, '214 k'], [999600, '1 M'], [9996, '10 k'], [2100000, '2.1 M']])('%i is %s', (n, words) => expect(count(n)).toBe(words));
  it.each([[2.34, '2.3 s'], [47, '47 s'], [125, '2 min 5 s'], [119.7, '2 min 0 s'], [89.6, '1 min 30 s']])('%f seconds is %s', (s, words) => expect(seconds(s)).toBe(words));
});

describe('typed lengths', () => {
  it.each([['3/8in', 9.525], ['2.5 cm', 25], ['0,8', 0.8], ['-4 mm', -4]])('%s is %f mm', (text, mm) => expect(parseLength(text)).toBeCloseTo(mm, 9));
  it.each(['', 'abc', '3 parsec', '1//2'])('"%s" is no length', (text) => expect(parseLength(text)).toBeNull());
});

it('the scale bar is 1, 2 or 5 times a power of ten', () => {
  for (const mm of [0.013, 0.7, 1.1, 3, 49, 730]) {
    expect(['1', '2', '5']).toContain(niceLength(mm).toExponential()[0]);
    expect(niceLength(mm)).toBeGreaterThanOrEqual(mm);
    expect(niceLength(mm)).toBeLessThanOrEqual(2.5 * mm * 1.0001);
  }
});
