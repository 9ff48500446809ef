import { describe, expect, it } from 'vitest';
import type { StepItem } from '../../api/types';
import { sizeQuestion, unitQuestion } from './unitQuestion';

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

describe('the question for odd sizes', () => {
  const odd = (id: string, unit: string) => ({ id, unit, was: 'mm', sizeMm: 210 });
  it('gathers the passes by the unit they seem to be in', () => {
    const question = sizeQuestion([step('import', { oddSizes: [odd('a', 'in'), odd('b', 'm'), odd('c', 'in')] })]);
    expect(question?.groups).toEqual([
      { unit: 'in', was: 'mm', items: ['a', 'c'], size: '210 mm' },
      { unit: 'm', was: 'mm', items: ['b'], size: '210 mm' },
    ]);
  });
  it('is answered by setting a unit, even the old one, and not asked when nothing is odd', () => {
    expect(sizeQuestion([step('import', { oddSizes: [odd('a', 'in')] }), step('set-unit')])).toBeNull();
    expect(sizeQuestion([step('import', { oddSizes: [] })])).toBeNull();
    expect(sizeQuestion([step('import', {})])).toBeNull();
  });
});
