import { describe, expect, it } from 'vitest';
import { becomes, hasWay, toChoice } from './frame';
import { fitRange } from './fitRange';

describe('the datums of a frame', () => {
  it('are read as steps hold them, by name or with what becomes of them', () => {
    expect(toChoice('base')).toEqual({ datum: 'base' });
    expect(toChoice({ datum: 'bore', to: 'X', flip: true })).toEqual({ datum: 'bore', to: 'X', flip: true });
    for (const none of [undefined, null, '']) expect(toChoice(none)).toBeNull();
  });
  it('become what their kind can be, first of all whatever is open', () => {
    expect(becomes('plane').map((b) => b.to)).toEqual(['', 'XY', 'YZ', 'XZ']);
    expect(becomes('cone').map((b) => b.to)).toEqual(['', 'X', 'Y', 'Z', 'XY', 'YZ', 'XZ']);
    expect(becomes('sphere').map((b) => b.to)).toEqual(['', 'origin', 'X', 'Y', 'Z', 'XY', 'YZ', 'XZ']);
  });
  it('can be flipped where they have a direction', () => {
    expect([hasWay('plane', undefined), hasWay('line', 'XY'), hasWay('point', 'origin'), hasWay('sphere', 'X'), hasWay('point', undefined)]).toEqual([true, true, false, true, false]);
  });
  it('show their fit over three times its error, and a perfect one over something', () => {
    expect([fitRange(0.02), fitRange(0)]).toEqual([0.06, 0.001]);
  });
});
