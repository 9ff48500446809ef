import { describe, expect, it } from 'vitest';
import { readTarget, targetInWords } from './target';

const BALLS = [
  [0, 0, 40],
  [90, 0, 40],
  [0, 70, 55],
];

describe('the file of a target', () => {
  it('gives balls, their diameter and flat faces', () => {
    const planes = [[0, 0, 12, 0, 0, 1]];
    const target = readTarget(JSON.stringify({ target: 1, unit: 'mm', diameter: 30, balls: BALLS, planes }));
    expect(target).toEqual({ diameter: 30, balls: BALLS, planes });
    expect(targetInWords(target)).toBe('3 balls, 1 flat face');
  });

  it('may have flat faces alone, and no diameter then', () => {
    const planes = [
      [0, 0, 12, 0, 0, 1],
      [60, 0, 6, 1, 0, 0],
      [0, 40, 6, 0, 1, 0],
    ];
    const target = readTarget(JSON.stringify({ target: 1, planes }));
    expect(target).toEqual({ balls: [], planes });
    expect(targetInWords(target)).toBe('3 flat faces');
  });

  it.each([
    ['{', 'is not JSON'],
    ['[]', '"target": 1 is missing'],
    ['null', '"target": 1 is missing'],
    [JSON.stringify({ fixture: 1, heads: [] }), '"target": 1 is missing'],
    [JSON.stringify({ target: 1, unit: 'in', balls: BALLS }), 'must be "mm"'],
    [JSON.stringify({ target: 1, diameter: 30, balls: [[0, 0]] }), 'three numbers for every ball'],
    [JSON.stringify({ target: 1, diameter: 30, balls: BALLS, planes: [[0, 0, 1]] }), 'six numbers for every flat face'],
    [JSON.stringify({ target: 1, diameter: 30, balls: BALLS.slice(0, 2) }), 'has 2 balls and 0 flat faces'],
    [JSON.stringify({ target: 1, balls: BALLS }), 'not their "diameter"'],
  ])('says what is wrong with %s', (text, why) => {
    expect(() => readTarget(text)).toThrow(why);
  });
});
