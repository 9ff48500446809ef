import { describe, expect, it } from 'vitest';
import { inWords, unitSign } from './inWords';

const ID = '331a5ba0-8d35-4acd-84e0-5c6c5d7319ad';

describe('parameters in words', () => {
  it.each([
    [null, 'default'],
    [true, 'yes'],
    [0.123456, '0.1235'],
    [12, '12'],
    ['curved', 'curved'],
    [ID, 'Pedestal'],
    [[], 'none'],
    [[1, 2.5, -3], '1, 2.5, -3'],
    [[ID, 'bush'], 'Pedestal, bush'],
    [[[1, 2, 3]], '1, 2, 3'],
    [
      [
        [1, 2, 3],
        [4, 5, 6],
      ],
      '2 places',
    ],
    [{ unit: 'in', up: '-y', faceBudget: 60000, toleranceMm: 0.2, closed: true, leastMeasured: 0.9, title: 'Cap' }, 'in, Y down, at most 60,000 faces, 95 % within 0.2 mm, at least 90 % measured, closed'],
    [{ leaveOpen: 2, widthMm: 4.5, turnDeg: 3 }, 'leave open 2, width 4.5 mm, turn 3°'],
    [{ find: 'axis' }, 'axis'],
    [{ find: 'mirror', nth: 2 }, 'mirror, nth 2'],
    [{ datum: 'Base', to: 'XY', flip: false }, 'Base, to XY'],
    [{ to: 'Y', datum: 'Bore' }, 'Bore, to Y'],
    [{ datum: 'Base', to: 'XY', flip: true }, 'Base, to XY, flip yes'],
    [{ how: 'offset', of: ['Base'], by: 5 }, 'offset, Base, by 5'],
    [
      [
        {
          target: ID,
          ranges: [
            [0, 9],
            [20, 20],
          ],
        },
      ],
      '11 selected on Pedestal',
    ],
    [[{ target: 'cap', indices: [4, 9] }], '2 selected on cap'],
    [[{ from: 'a', to: 'b', actual: 52 }], 'from a, to b, actual 52'],
    [[{}, {}, {}, {}], '4 of them'],
    [{ fixture: 1, unit: 'mm', heads: [{ name: 'head 1', transform: [] }] }, '1 head'],
  ])('%j', (value, text) => {
    expect(inWords(value, { [ID]: 'Pedestal' })).toBe(text);
  });
});

it.each([
  ['share', '%'],
  ['deg', '°'],
  ['mm', 'mm'],
  ['1/cm²', '/cm²'],
  ['', ''],
])('the sign of %s', (unit, sign) => {
  expect(unitSign(unit)).toBe(sign);
});
