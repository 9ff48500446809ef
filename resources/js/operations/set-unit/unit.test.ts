import { expect, it } from 'vitest';
import { aMesh, aPass, aProject } from '../../test/project';
import setUnit, { readAs } from './index';
import { NO_RIM_GESTURE } from '../../tools/rims/closing';

const scaled = (k: number) => [0, -k, 0, 5, k, 0, 0, 5, 0, 0, k, 5, 0, 0, 0, 1];
const read = (...scales: number[]) => readAs(aProject({ passes: scales.map((k, i) => ({ ...aPass(String(i)), transform: scaled(k) })) }).snapshot);

it('begins with the unit that the files were read in', () => {
  expect([read(1), read(25.4, 25.4), read(1000)]).toEqual(['mm', 'in', 'm']);
  expect([read(1, 1000), read(1.02), readAs(aProject().snapshot)]).toEqual([null, null, null]);
  expect(readAs(aProject({ bodies: [{ ...aMesh('b'), transform: scaled(304.8) }] }).snapshot)).toBe('ft');
  expect(setUnit.beginsWith?.(aProject({ passes: [{ ...aPass('a'), transform: scaled(10) }] }).snapshot, aProject().project.brief)).toEqual({ was: 'cm' });
});

it('takes no step that changes nothing', () => {
  const asked = { picks: [], selection: [], datumBy: 'click' as const, rims: NO_RIM_GESTURE, data: aProject() };
  expect(setUnit.lacking?.({ unit: 'mm', was: 'mm' }, asked)).toContain('already');
  expect(setUnit.lacking?.({ unit: 'm', was: 'mm' }, asked)).toBeNull();
});
