import { describe, expect, it } from 'vitest';
import { gapFor, type Skin, whose } from './DoubleSkins';

const skin = (over: Partial<Skin>): Skin => ({ centre: [0, 0, 0], gapMm: 0.4, areaMm2: 100, within: false, passes: ['a', 'b', 'c', 'd', 'e', 'f', 'g'], ...over });

describe('a double skin in the list', () => {
  it('names the passes that stand off, as long as they are few', () => {
    expect(whose(skin({ off: ['c'] }))).toBe('c off');
    expect(whose(skin({ off: ['c', 'd'] }))).toBe('c and d off');
    expect(whose(skin({ off: ['a', 'b', 'c'] }))).toBe('in 7 passes');
    expect(whose(skin({}))).toBe('in 7 passes');
    expect(whose(skin({ within: true, off: ['c'] }))).toBe('within one pass');
  });
  it('is resolved up to a little more than the widest gap', () => {
    expect(gapFor([skin({}), skin({ gapMm: 0.91 })])).toBe(1.1);
    expect(gapFor([])).toBe(0);
  });
});
