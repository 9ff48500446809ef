import { describe, expect, it } from 'vitest';
import { bytes, count, niceLength, parseLength, seconds, since } from './format';

describe('figures in words', () => {
  it.each([
    [999, '999'],
    [1200, '1.2 k'],
    [214000, '214 k'],
    [999600, '1 M'],
    [9996, '10 k'],
    [2100000, '2.1 M'],
  ])('%i is %s', (n, words) => expect(count(n)).toBe(words));
  it.each([
    [0, 'nothing'],
    [12, '1 KB'],
    [48_200, '48 KB'],
    [999_700, '1 MB'],
    [3_140_000, '3.14 MB'],
    [999_700_000, '1 GB'],
    [77_200_000_000, '77.2 GB'],
  ])('%i bytes are %s', (n, words) => expect(bytes(n)).toBe(words));
  it.each([
    [20, 'just now'],
    [61, '1 minute ago'],
    [3599, '59 minutes ago'],
    [7300, '2 hours ago'],
    [90_000, '1 day ago'],
  ])('%i s since is %s', (s, words) => expect(since('2026-03-01T12:00:00Z', Date.parse('2026-03-01T12:00:00Z') + 1000 * s)).toBe(words));
  it.each([
    [2.34, '2.3 s'],
    [47, '47 s'],
    [125, '2 min 5 s'],
    [119.7, '2 min 0 s'],
    [89.6, '1 min 30 s'],
  ])('%f seconds is %s', (s, words) => expect(seconds(s)).toBe(words));
});

describe('typed lengths', () => {
  it.each([
    ['3/8in', 9.525],
    ['2.5 cm', 25],
    ['0,8', 0.8],
    ['-4 mm', -4],
  ])('%s is %f mm', (text, mm) => expect(parseLength(text)).toBeCloseTo(mm, 9));
  it.each(['', 'abc', '3 parsec', '1//2'])('"%s" is no length', (text) => expect(parseLength(text)).toBeNull());
});

it('the scale bar is 1, 2 or 5 times a power of ten', () => {
  for (const mm of [0.013, 0.7, 1.1, 3, 49, 730]) {
    expect(['1', '2', '5']).toContain(niceLength(mm).toExponential()[0]);
    expect(niceLength(mm)).toBeGreaterThanOrEqual(mm);
    expect(niceLength(mm)).toBeLessThanOrEqual(2.5 * mm * 1.0001);
  }
});
