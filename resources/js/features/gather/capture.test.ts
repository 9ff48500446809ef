import { describe, expect, it } from 'vitest';
import type { Capture } from '../../api/types';
import { captureWords } from './CapturePanel';
import { alike, columnsProblem, type TextFile } from './ColumnsDialog';

const aCapture = (over: Partial<Capture>): Capture => ({
  id: 'c',
  state: 'running',
  scanner: { part: 'bush', rig: 'handheld', surface: 'matt', spray: false, dots: false, dotRadius: 3, dotSpacing: 35 },
  frames: 3,
  lost: 0,
  isLost: false,
  points: 9,
  coverage: null,
  standsAt: null,
  message: null,
  silent: false,
  ...over,
});

describe('what is said of a capture', () => {
  it('is why it stopped before anything else', () => {
    expect(captureWords(aCapture({ state: 'failed', message: 'The cable came loose.', isLost: true }))).toBe('The cable came loose.');
    expect(captureWords(aCapture({ state: 'ended', silent: true }))).toMatch(/all its stops/);
  });
  it('does not complain about a paused scanner', () => {
    expect(captureWords(aCapture({ state: 'paused', isLost: true }))).toMatch(/^Paused/);
  });
  it('offers dots where tracking was lost without them, and not where they are on already', () => {
    expect(captureWords(aCapture({ isLost: true }))).toMatch(/dots/);
    expect(captureWords(aCapture({ isLost: true, scanner: null }))).not.toMatch(/dots/);
  });
  it('names a scanner that fell silent', () => {
    expect(captureWords(aCapture({ silent: true }))).toMatch(/no sign of life/);
  });
});

describe('columns of a text file', () => {
  it('need X, Y and Z once each', () => {
    expect(columnsProblem(['x', 'y', 'z', 'skip', 'skip'])).toBeNull();
    expect(columnsProblem(['x', 'y', 'skip'])).toBe('Say which column is Z.');
    expect(columnsProblem(['x', 'y', 'z', 'x'])).toBe('Two columns are X.');
  });
  it('are asked once for files that look alike', () => {
    const file = (name: string, ...columns: string[]): TextFile => ({ upload: name, name, look: { lines: [], columns, heading: 0, roles: [] } });
    expect(alike([file('a', 'x', 'y', 'z'), file('b', 'x', 'y', 'z', 'skip'), file('c', 'x', 'y', 'z')]).map((g) => g.map((f) => f.name))).toEqual([['a', 'c'], ['b']]);
  });
});
