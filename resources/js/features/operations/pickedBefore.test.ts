import { describe, expect, it } from 'vitest';
import { aMesh, anOperation, aParameter, aPass, aProject } from '../../test/project';
import { pickedBefore } from './pickedBefore';

const { snapshot } = aProject({ passes: [aPass('p'), aPass('q')], bodies: [aMesh('b')] });
const places = (state: ReturnType<typeof pickedBefore>) => state.picks?.map((pick) => pick.pointMm);

describe('what was picked for a step comes back', () => {
  const datum = anOperation('add-datum', 'orient', { parameters: [aParameter('seed', { picks: 'points' }), aParameter('points', { picks: 'points' }), aParameter('also', { picks: 'points' })] });
  it('as one place, as several, and as one with further ones', () => {
    expect(places(pickedBefore(datum, { seed: [1, 2, 3] }, snapshot))).toEqual([[1, 2, 3]]);
    expect(
      places(
        pickedBefore(
          datum,
          {
            points: [
              [1, 2, 3],
              [4, 5, 6],
              [7, 8, 0],
            ],
          },
          snapshot,
        ),
      ),
    ).toHaveLength(3);
    expect(places(pickedBefore(datum, { seed: [1, 2, 3], also: [[9, 9, 9]] }, snapshot))).toEqual([
      [1, 2, 3],
      [9, 9, 9],
    ]);
  });
  it('as a place with a direction', () => {
    const engrave = anOperation('engrave', 'deliver', { parameters: [aParameter('at', { picks: 'points' })] });
    expect(places(pickedBefore(engrave, { at: { point: [1, 2, 3], up: [0, 0, 1] } }, snapshot))).toEqual([[1, 2, 3]]);
  });
  it('as pairs on what moves and what stays', () => {
    const pair = anOperation('pair-points', 'register', { parameters: [aParameter('pairs', { picks: 'pairs' })] });
    const { picks } = pickedBefore(pair, { moving: 'p', onto: 'q', pairs: [{ from: [0, 0, 0], to: [1, 0, 0] }] }, snapshot);
    expect(picks?.map((pick) => pick.itemId)).toEqual(['p', 'q']);
  });
  it('as a selection of what is still there', () => {
    const cut = anOperation('cut-away', 'gather', { parameters: [aParameter('selection', { picks: 'selection' })] });
    const told = [
      {
        target: 'b',
        ranges: [
          [0, 4],
          [9, 9],
        ],
        of: 20,
      },
      { target: 'gone', ranges: [[0, 0]], of: 20 },
    ];
    expect(pickedBefore(cut, { selection: told }, snapshot).selection).toEqual([
      {
        target: 'b',
        ranges: [
          [0, 4],
          [9, 9],
        ],
        of: 20,
        count: 6,
      },
    ]);
  });
  it('and of nothing comes nothing', () => expect(pickedBefore(datum, {}, snapshot)).toMatchObject({ picks: [], selection: [] }));
});
