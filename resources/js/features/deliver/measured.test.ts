import { describe, expect, it } from 'vitest';
import type { StepItem } from '../../api/types';
import { asTable, listed } from './measured';

const step = (id: number, state: StepItem['state'], measurements?: unknown[]): StepItem => ({ id, operation: 'measure', state, figures: { headline: '', before: {}, after: measurements ? { measurements } : {}, notes: [] } }) as unknown as StepItem;
const bore = { name: 'Bore', kind: 'diameter', value: 30.012, uncertainty: 0.026, unit: 'mm', nominal: 30, plus: 0.1, minus: null, verdict: 'in', words: '30.012 ± 0.026 mm' };

describe('what was measured', () => {
  it('is what the steps that stand have measured', () => {
    expect(listed([step(1, 'done', [bore]), step(2, 'undone' as StepItem['state'], [bore]), step(3, 'done')]).map((m) => [m.step, m.words])).toEqual([[1, '30.012 ± 0.026 mm']]);
  });
  it('goes into a table with nothing where nothing is known', () => {
    expect(asTable(listed([step(1, 'done', [bore])]))).toBe('name\tvalue\tuncertainty (k = 2)\tunit\tnominal\tplus\tminus\tverdict\nBore\t30.012\t0.026\tmm\t30\t0.1\t\tin');
  });
});
