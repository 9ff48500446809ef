import { expect, it } from 'vitest';
import { aStep } from '../../test/project';
import { setAsideHere, undoneBy, undoneOfOurs } from './undoing';

const line = [aStep(1, 'import'), { ...aStep(2, 'fuse'), isMine: false }, aStep(3, 'repair'), aStep(4, 'scale', 'set-aside'), aStep(5, 'decimate', 'failed')];

it('undoes the last step in force, or all that stand behind one', () => {
  expect(undoneBy(line).map((s) => s.id)).toEqual([3]);
  expect(undoneBy(line, 1).map((s) => s.id)).toEqual([2, 3]);
  expect(undoneBy(line, 3)).toEqual([]);
  expect(undoneBy([])).toEqual([]);
});

it('tells of steps of ours that went without our doing', () => {
  const gone = line.map((s) => (s.id === 2 || s.id === 3 ? { ...s, state: 'set-aside' as const } : s));
  expect(undoneOfOurs(line, gone).map((s) => s.id)).toEqual([3]);
  expect(undoneOfOurs(gone, gone)).toEqual([]);
  setAsideHere(line, 1);
  expect(undoneOfOurs(line, gone)).toEqual([]);
});
