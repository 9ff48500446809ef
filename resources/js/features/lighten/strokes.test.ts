import { describe, expect, it } from 'vitest';
import { lengthOf, mirrored, type Stroke, strokesOf } from './strokes';

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

  it('stand on the other side of a plane once they are mirrored, wherever it is and however long its normal', () => {
    expect(mirrored(kept, { origin: [1, 0, 0], normal: [2, 0, 0] })).toEqual([
      [2, 0, 0],
      [-1, 4, 0],
    ]);
    const askew = { origin: [1, 2, 3] as [number, number, number], normal: [1, -2, 2] as [number, number, number] };
    for (const [k, at] of mirrored(mirrored(drawn, askew), askew).entries()) for (const c of [0, 1, 2]) expect(at[c]).toBeCloseTo(drawn[k]![c]!, 12);
  });

  it('are as long as the ways between their places', () => {
    expect(lengthOf(kept)).toBe(5);
    expect(lengthOf(drawn)).toBe(7);
  });
});
