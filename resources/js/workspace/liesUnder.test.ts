import { describe, expect, it } from 'vitest';
import { liesUnder } from './liesUnder';

const bodies = [
  { id: 'cap', kind: 'mesh' as const },
  { id: 'bush', kind: 'mesh' as const },
  { id: 'quads', kind: 'mesh' as const },
];
const step = (operation: string, on: string[] | null) => [{ operation, state: 'done' as const, on }];

describe('what new cells are laid over', () => {
  it('is what their step worked on, once they are there', () => {
    expect(liesUnder(step('quad-remesh', ['cap']), bodies, ['cap', 'bush'])).toEqual(['cap']);
    expect(liesUnder(step('quad-remesh', null), bodies, ['cap', 'bush'])).toEqual(['cap', 'bush']);
    expect(liesUnder(step('quad-remesh', ['cap']), bodies, ['cap', 'bush', 'quads'])).toEqual([]);
  });

  it('is nothing after steps that lay nothing over anything', () => {
    expect(liesUnder(step('copy', ['cap']), bodies, ['cap', 'bush'])).toEqual([]);
  });
});
