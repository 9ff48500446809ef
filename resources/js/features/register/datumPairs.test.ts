import { describe, expect, it } from 'vitest';
import type { DatumItem, DatumKind } from '../../api/types';
import { aDatum } from '../../test/project';
import { lackingDatumPairs, onesOf, onesToLieOn } from './datumPairs';

const datum = (id: string, kind: DatumKind, bodyId: string | null): DatumItem => ({ ...aDatum(id), kind, bodyId });

describe('datums laid on datums', () => {
  const datums = [datum('base', 'plane', 'cap'), datum('bore', 'cylinder', 'cap'), datum('top', 'plane', 'rough'), datum('axis', 'line', null), datum('ball', 'sphere', 'rough')];

  it('takes those that move along', () => {
    expect(onesOf(datums, 'cap').map((d) => d.id)).toEqual(['base', 'bore']);
    expect(onesOf(datums, undefined)).toEqual([]);
  });

  it('lays planes on planes and axes on axes, never on what moves along', () => {
    expect(onesToLieOn(datums, datums[0]!, 'cap').map((d) => d.id)).toEqual(['top']);
    expect(onesToLieOn(datums, datums[1]!, 'cap').map((d) => d.id)).toEqual(['axis']);
    expect(onesToLieOn(datums, datums[4]!, 'rough')).toEqual([]);
  });

  it('says what is missing', () => {
    expect(lackingDatumPairs(undefined)).toMatch(/^Choose a datum of what moves/);
    expect(lackingDatumPairs([{ from: 'base', to: '' }])).toBe('Choose what each datum comes to lie on.');
    expect(lackingDatumPairs([{ from: 'base', to: 'top' }])).toBeNull();
  });
});
