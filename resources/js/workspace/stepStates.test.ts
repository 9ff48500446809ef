import { expect, it } from 'vitest';
import { aMesh, aPass } from '../test/project';
import { touched } from './StepStates';

it('finds what a step changed, made or took out, and nothing else', () => {
  const [kept, moved, gone] = ['kept', 'moved', 'gone'].map(aPass) as [ReturnType<typeof aPass>, ReturnType<typeof aPass>, ReturnType<typeof aPass>];
  const before = { passes: [kept, moved, gone], bodies: [aMesh('same')] };
  const after = { passes: [kept, { ...moved, transform: [2] }], bodies: [aMesh('same'), aMesh('made')] };
  expect(touched({ before, after })).toEqual(['moved', 'gone', 'made']);
  expect(touched({ before, after: before })).toEqual([]);
});
