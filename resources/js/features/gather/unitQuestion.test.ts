import { describe, expect, it } from 'vitest';
import type { StepItem } from '../../api/types';
import { unitQuestion } from './unitQuestion';

const step = (operation: string, after: Record<string, unknown> = {}, state = 'done') => ({ operation, state, figures: { headline: '', notes: [], before: {}, after } }) as unknown as StepItem;
const guessed = step('import', { guessed: { items: ['a'], unit: 'm', lengthMm: 210 } });

describe('the question for the unit', () => {
  it('says how long the part would be in every unit', () => {
    const question = unitQuestion([guessed, step('drop-base')]);
    expect(question?.unit).toBe('m');
    expect(question?.choices.find((c) => c.unit === 'm')?.size).toBe('210 mm');
    expect(question?.choices.find((c) => c.unit === 'in')?.size).toBe('5.3 mm');
    expect(question?.choices.find((c) => c.unit === 'mm')?.size).toBe('0.21 mm');
  });
  it('is answered by setting the unit, and asked again when that is undone', () => {
    expect(unitQuestion([guessed, step('set-unit')])).toBeNull();
    expect(unitQuestion([guessed, step('set-unit', {}, 'set-aside')])).not.toBeNull();
  });
  it('is not asked when the files said it', () => {
    expect(unitQuestion([step('import', { guessed: null })])).toBeNull();
    expect(unitQuestion([])).toBeNull();
  });
});
