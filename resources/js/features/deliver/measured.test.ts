import { describe, expect, it } from 'vitest';
import type { BodyItem, StepItem } from '../../api/types';
import { asTable, change, changedSince, latest, listed, standsOn } from './measured';

const step = (id: number, state: StepItem['state'], measurements?: unknown[]): StepItem => ({ id, operation: 'measure', state, figures: { headline: '', before: {}, after: measurements ? { measurements } : {}, notes: [] } }) as unknown as StepItem;
const bore = { name: 'Bore', kind: 'diameter', value: 30.012, uncertainty: 0.026, unit: 'mm', nominal: 30, plus: 0.1, minus: null, verdict: 'in', words: '30.012 ± 0.026 mm' };

describe('what was measured', () => {
  it('is what the steps that stand have measured', () => {
    expect(listed([step(1, 'done', [bore]), step(2, 'undone' as StepItem['state'], [bore]), step(3, 'done')]).map((m) => [m.step, m.words])).toEqual([[1, '30.012 ± 0.026 mm']]);
  });
  it('is of the part as it stands only while no body has changed or moved', () => {
    const [was] = [{ id: 'a', blob: 'x', transform: [1, 2] }];
    const body = (change: object) => [{ ...was, ...change }] as unknown as BodyItem[];
    expect(standsOn({ bodies: [was] }, body({}))).toBe(true);
    expect(standsOn({ bodies: [was] }, body({ blob: 'y' }))).toBe(false);
    expect(standsOn({ bodies: [was] }, body({ transform: [1, 3] }))).toBe(false);
    expect(standsOn({ bodies: [] }, body({}))).toBe(false);
  });
  it('takes the place of what was measured in the same way before, and tells what changed', () => {
    const again = { ...bore, value: 30.0, words: '30.000 ± 0.026 mm' };
    const all = latest(listed([step(1, 'done', [bore, { ...bore, name: 'Boss' }]), step(2, 'done', [again])]));
    expect(all.map((m) => [m.name, m.value, change(m)])).toEqual([
      ['Bore', 30, '0.012 mm less than before (30.012 ± 0.026 mm)'],
      ['Boss', 30.012, null],
    ]);
    expect(change({ ...all[0]!, value: 30.0121 })).toBe('as before (30.012 ± 0.026 mm)');
  });
  it('tells what was handed over of a part that has changed since', () => {
    const was = { id: 'a', blob: 'x', transform: [1, 2] };
    const delivered = (made: string, blob: string) => ({ ...step(1, 'done'), figures: { headline: '', before: {}, after: { made: [made], measuredOn: [{ ...was, blob }] }, notes: [] } }) as unknown as StepItem;
    expect([...changedSince([delivered('old', 'w'), delivered('now', 'x'), step(3, 'done')], [was] as unknown as BodyItem[])]).toEqual(['old']);
  });
  it('goes into a table with nothing where nothing is known', () => {
    expect(asTable(listed([step(1, 'done', [bore])]))).toBe('name\tvalue\tuncertainty (k = 2)\tunit\tnominal\tplus\tminus\tverdict\nBore\t30.012\t0.026\tmm\t30\t0.1\t\tin');
  });
});
