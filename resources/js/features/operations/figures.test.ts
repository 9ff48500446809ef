import { expect, it } from 'vitest';
import { figureLines } from './figures';

it('tells plain figures before and after, with their units', () => {
  expect(figureLines({ before: { faces: 89214 }, after: { faces: 8921, deviation: 0.08312, pairs: [1, 2] } })).toEqual([
    ['Faces', '89,214 → 8,921'],
    ['Farthest from before', '0.0831 mm'],
  ]);
  expect(figureLines({ before: { holes: 3 }, after: { holes: 3, transform: [1] } })).toEqual([['Open rims', '3']]);
});
