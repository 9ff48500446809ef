import { expect, it } from 'vitest';
import type { ArtefactItem } from '../../api/types';
import { sizesOf } from './drawn';

it('puts the dimensions of a section where it stands, in its size', () => {
  // Twice as large, turned by a quarter about Z, 100 mm up.
  const artefact = { transform: [0, -2, 0, 0, 2, 0, 0, 0, 0, 0, 2, 100, 0, 0, 0, 1] } as unknown as ArtefactItem;
  const line: [[number, number, number], [number, number, number]] = [
    [0, 0, 1],
    [9, 0, 1],
  ];
  const sizes = sizesOf(artefact, [
    { sign: 'Ø', many: 4, value: 9, line },
    { sign: '', many: 1, value: 2.5, line },
  ]);
  expect(sizes.map((s) => s.words)).toEqual(['4 × Ø 18.00 mm', '5.00 mm']);
  expect(sizes[0]?.line).toEqual([
    [0, 0, 102],
    [0, 18, 102],
  ]);
});
