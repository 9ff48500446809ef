import { describe, expect, it } from 'vitest';
import type { OperationInfo, ProjectState } from '../../api/types';
import { entries, found } from './entries';

const operation = (name: string, label: string, stage: string) => ({ name, label, stage, help: '', avoid: '', needs: 'any', looksOnly: false, on: 'shown', parameters: [] }) as OperationInfo;
const data = { snapshot: { passes: [{ id: 'p', name: 'pass-01' }], bodies: [{ id: 'b', name: 'Pedestal' }], datums: [{ id: 'd', name: 'Bore' }] } } as unknown as ProjectState;
const all = entries([operation('fill-holes', 'Close holes', 'mend'), operation('keep-pieces', 'Keep pieces', 'mend')], [{ name: 'mend', label: 'Mend' }], data);

describe('the command box', () => {
  it('finds operations, stages, bodies, passes and datums by their names', () => {
    for (const [typed, key] of [
      ['holes', 'operation fill-holes'],
      ['pedestal', 'b'],
      ['pass-01', 'p'],
      ['bore', 'd'],
    ])
      expect(found(all, typed!)[0]?.key).toBe(key);
  });
  it('puts what begins with the text first', () => {
    expect(found(all, 'mend')[0]?.key).toBe('stage mend');
    expect(found(all, 'mend')).toHaveLength(3);
  });
  it('wants every word and is not put off by case', () => {
    expect(found(all, 'KEEP mend').map((e) => e.key)).toEqual(['operation keep-pieces']);
    expect(found(all, 'keep holes')).toEqual([]);
  });
  it('shows all in their order while nothing is typed', () => {
    expect(found(all, ' ').map((e) => e.key)).toEqual(all.map((e) => e.key));
  });
});
