import { describe, expect, it } from 'vitest';
import { lengthOf, type Stroke, strokesOf } from './strokes';

const kept: Stroke = [
  [0, 0, 0],
  [3, 4, 0],
];
const drawn: Stroke = [
  [1, 0, 0],
  [1, 2, 0],
  [1, 2, 5],
];

describe('strokes', () => {
  it('are those that were kept and the one that is drawn, as what it is drawn for', () => {
    expect(strokesOf({ flow: [kept] }, drawn)).toEqual({ flow: [kept, drawn], edges: [] });
    expect(strokesOf({ flow: [kept], strokeAs: 'edges' }, drawn)).toEqual({ flow: [kept], edges: [drawn] });
    expect(strokesOf({}, drawn.slice(0, 1))).toEqual({ flow: [], edges: [] });
  });

  it('are as long as the ways between their places', () => {
    expect(lengthOf(kept)).toBe(5);
    expect(lengthOf(drawn)).toBe(7);
  });
});
