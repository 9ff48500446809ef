import { describe, expect, it } from 'vitest';
import { type NumberKind, readTyped } from './typed';

const value = (text: string, kind: NumberKind = {}) => {
  const typed = readTyped(text, kind);
  return typed && 'value' in typed ? typed.value : typed;
};
const WHOLE = { isWhole: true };
const LENGTH = { isLength: true };

describe('typed numbers', () => {
  it.each([
    ['42', 42],
    ['-3.5', -3.5],
    ['−3.5', -3.5],
    ['+2', 2],
    ['.5', 0.5],
    ['5.', 5],
    ['1,5', 1.5],
    ['0,125', 0.125],
    ['1 234.5', 1234.5],
    ['1 234,5', 1234.5],
    ["1'234.5", 1234.5],
    ['1.234,5', 1234.5],
    ['1,234.5', 1234.5],
    ['1.234.567', 1234567],
    ['1,234,567', 1234567],
    ['3/8', 0.375],
    ['1 3/8', 1.375],
    ['2k', 2000],
  ])('%s is %f', (text, number) => expect(value(text)).toBeCloseTo(number, 9));

  it.each([
    ['30 k', 30000],
    ['60 000', 60000],
    ['60\u00a0000', 60000],
    ['60.000', 60000],
    ['60,000', 60000],
    ['1.2 M', 1200000],
    ['1,2M', 1200000],
    ['0.5 k', 500],
    ['12', 12],
  ])('%s faces are %i', (text, number) => expect(value(text, WHOLE)).toBe(number));

  it.each([
    ['3/8 in', 9.525],
    ['3/8"', 9.525],
    ['1 1/2 in', 38.1],
    ['2,5 cm', 25],
    ['1.2 m', 1200],
    ['1 ft', 304.8],
    ['7', 7],
    ['-4 mm', -4],
  ])('%s is %f mm', (text, mm) => expect(value(text, LENGTH)).toBeCloseTo(mm, 9));

  it('takes the sign that belongs to it', () => {
    expect(value('40 °', { sign: '°' })).toBe(40);
    expect(value('98 %', { sign: '%' })).toBe(98);
    expect(readTyped('98 %', { sign: '°' })).toHaveProperty('why');
  });

  it('says what it does not understand', () => {
    expect(readTyped(' ')).toBeNull();
    expect(readTyped('wide', LENGTH)).toEqual({ why: '"wide" is no length: type a number, with cm, m, in or ft behind it if it is not in mm' });
    expect(readTyped('3 parsec', LENGTH)).toHaveProperty('why');
    expect(readTyped('1,500', LENGTH)).toEqual({ why: '"1,500" may be 1500 or 1.500: write it one of these ways' });
    for (const wrong of ['1 2', '12 34', '1.2.3', '1,2,3', '1//2', '1/0', '--2', '.', '1 2/3/4', '1.5/2']) expect(readTyped(wrong), wrong).toHaveProperty('why');
    expect(readTyped('1.5', WHOLE)).toEqual({ why: '"1.5" is no whole number' });
  });

  it('tells apart what needs no telling back', () => {
    for (const [text, isPlain] of [
      ['42', true],
      ['1.5', true],
      ['1,5', false],
      ['30 k', false],
      ['60 000', false],
    ] as const)
      expect(readTyped(text)).toMatchObject({ isPlain });
    expect(readTyped('3/8 in', LENGTH)).toMatchObject({ isPlain: false });
  });
});
