import { describe, expect, it } from 'vitest';
import type { ParameterInfo } from '../../api/types';
import { hasSlider, isBadNumber, readNumber, understoodAs, whyBad } from './numbers';

const number = (more: Partial<ParameterInfo>): ParameterInfo => ({ name: 'n', type: 'float', required: false, nullable: false, default: 1, label: 'N', help: '', unit: '', min: null, exclusiveMin: false, max: null, choices: [], picks: null, empty: '', suggested: false, with: [], ...more });

describe('numbers in fields', () => {
  it('gives a slider to what lies between two bounds that are not far apart', () => {
    expect(hasSlider(number({ min: 0, max: 1, unit: 'share' }))).toBe(true);
    expect(hasSlider(number({ min: -1e6, max: 1e6, unit: 'mm' }))).toBe(false);
    expect(hasSlider(number({ min: 0 }))).toBe(false);
    expect(hasSlider(number({ type: 'int', min: 1, max: 5 }))).toBe(false);
  });

  it('reads lengths with their unit, shares as per cent, and nothing as nothing', () => {
    expect(readNumber(number({ unit: 'mm' }), '1 in')).toBeCloseTo(25.4);
    expect(readNumber(number({ unit: 'mm' }), 'wide')).toBeNaN();
    expect(readNumber(number({}), ' ')).toBeNull();
    expect(isBadNumber(number({ unit: 'share', min: 0, max: 1 }), '100')).toBe(false);
    expect(isBadNumber(number({ unit: 'share', min: 0, max: 1 }), '101')).toBe(true);
  });

  it('keeps to bounds that are in or out of the range', () => {
    expect(isBadNumber(number({ min: 0 }), '0')).toBe(false);
    expect(isBadNumber(number({ min: 0, exclusiveMin: true }), '0')).toBe(true);
    expect(isBadNumber(number({}), '')).toBe(false);
    expect(isBadNumber(number({}), '1.')).toBe(false);
    expect(isBadNumber(number({}), '1x')).toBe(true);
  });

  it('says why a number cannot be taken, and what another way of writing it means', () => {
    expect(whyBad(number({ type: 'int', min: 20, max: 20_000_000 }), '5')).toBe('At least 20.');
    expect(whyBad(number({ unit: 'share', min: 0, max: 1 }), '101')).toBe('At most 100.');
    expect(whyBad(number({ unit: 'mm', min: 0, exclusiveMin: true }), '0')).toBe('More than 0.');
    expect(whyBad(number({ type: 'int' }), '1.5')).toBe('"1.5" is no whole number');
    expect(whyBad(number({ type: 'int', min: 20 }), '30 k')).toBeNull();
    expect(understoodAs(number({ type: 'int' }), '30 k')).toBe('= 30 000');
    expect(understoodAs(number({ unit: 'mm' }), '3/8 in')).toBe('= 9.525');
    expect(understoodAs(number({ unit: 'mm' }), '9.5')).toBeNull();
    expect(understoodAs(number({ unit: 'mm' }), 'wide')).toBeNull();
  });
});
