import { expect, it } from 'vitest';
import { totalOf } from './sending';

it('counts the total by bytes, not by files, and names the one on its way', () => {
  const sending = [
    { name: 'cap-1.ply', bytes: 3e6, share: 1 },
    { name: 'cap-2.ply', bytes: 1e6, share: 0 },
  ];
  expect(totalOf(sending)).toEqual({ share: 0.75, words: 'Bringing in 2 files, now cap-2.ply: 3 MB of 4 MB' });
  expect(totalOf([{ name: 'cap-1.ply', bytes: 2e6, share: 0 }])).toEqual({ share: 0, words: 'Bringing in cap-1.ply: nothing yet of 2 MB' });
});
