import { expect, it } from 'vitest';
import { selectedInWords } from './selectedInWords';

const items = [
  { id: 'p', name: 'Pass 1' },
  { id: 'b', name: 'Cap', kind: 'mesh' },
  { id: 'c', name: 'Copy', kind: 'cloud' },
];

it.each([
  [[{ target: 'p', count: 463 }], '463 points of Pass 1 selected'],
  [[{ target: 'b', count: 1 }], '1 face of Cap selected'],
  [
    [
      { target: 'b', count: 12 },
      { target: 'c', count: 1 },
      { target: 'p', count: 4 },
    ],
    '12 faces and 5 points of 3 things selected',
  ],
  [
    [
      { target: 'b', count: 2 },
      { target: 'c', count: 9 },
    ],
    '2 faces and 9 points of 2 bodies selected',
  ],
  [[{ target: 'gone', count: 3 }], '3 points of one thing selected'],
])('says what is selected, and of what', (selection, words) => expect(selectedInWords(selection, items)).toBe(words));
