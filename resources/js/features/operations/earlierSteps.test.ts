import { expect, it } from 'vitest';
import { anOperation, aStep } from '../../test/project';
import { earlierSteps } from './earlierSteps';

it('lists what is in force, the latest first, and says what came of it', () => {
  const steps = [aStep(1, 'import', 'done'), aStep(2, 'fuse', 'set-aside'), { ...aStep(3, 'fuse', 'done'), figures: { ...aStep(3, 'fuse', 'done').figures, headline: '180 k faces' } } as ReturnType<typeof aStep>, aStep(4, 'repair', 'failed')];
  expect(earlierSteps(steps, [{ ...anOperation('fuse', 'fuse'), label: 'Fuse' }]).map((s) => s.id)).toEqual(['3', '1']);
  expect(earlierSteps(steps, [{ ...anOperation('fuse', 'fuse'), label: 'Fuse' }])[0]?.name).toBe('Fuse · 180 k faces');
});
