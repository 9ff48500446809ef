import { describe, expect, it } from 'vitest';
import { secondsBetween } from '../../ui/format';
import { timeLeft } from './timeLeft';

const begunAt = '2026-12-02T10:00:00Z';
const at = (s: number) => Date.parse(begunAt) + 1000 * s;

describe('time left', () => {
  it('begins with what such steps have taken, counts down, and ends with the pace of the step itself', () => {
    const step = { state: 'running' as const, begunAt, expected: [20, 40], progress: 0 };
    expect(timeLeft(step, at(0))).toBe('20 to 40 s left');
    expect(timeLeft(step, at(10))).toBe('10 to 30 s left');
    expect(timeLeft({ ...step, progress: 0.9 }, at(30))).toBe('3 to 4 s left');
  });
  it('says when it takes longer than usual', () => {
    expect(timeLeft({ state: 'running', begunAt, expected: [2, 4], progress: 0 }, at(9))).toBe('longer than usual');
    expect(timeLeft({ state: 'running', begunAt, expected: [2, 4], progress: 0.5 }, at(30))).toBe('longer than usual, about 30 s left');
  });
  it('says nothing of a step that waits, and goes by the pace where nothing is known', () => {
    expect(timeLeft({ state: 'waiting', begunAt: null, expected: null, progress: 0 }, at(9))).toBeNull();
    expect(timeLeft({ state: 'running', begunAt, expected: null, progress: 0.01 }, at(9))).toBeNull();
    expect(timeLeft({ state: 'running', begunAt, expected: null, progress: 0.5 }, at(10))).toBe('about 10 s left');
  });
});

describe('ranges of time', () => {
  it.each([
    [[0.2, 0.4], 'about 1 s'],
    [[3.6, 9.2], '4 to 9 s'],
    [[31, 44], '30 to 45 s'],
    [[40, 130], '40 s to 2.2 min'],
    [[120, 700], '2 to 12 min'],
  ])('%j', (range, words) => expect(secondsBetween(range as number[])).toBe(words));
});
