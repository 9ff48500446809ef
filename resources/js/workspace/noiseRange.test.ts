import { describe, expect, it } from 'vitest';
import type { BodyItem } from '../api/types';
import { noiseRange } from './noiseRange';

const body = (noiseMm?: number | null) => ({ figures: noiseMm === undefined ? undefined : { noiseMm } }) as Pick<BodyItem, 'figures'>;

describe('the range of the colours of noise', () => {
  it('is that of the noisiest body that tells', () => {
    expect(noiseRange([body(0.04), body(), body(0.07), body(null)])).toBe(0.07);
  });
  it('is none where no body tells', () => {
    expect(noiseRange([])).toBeNull();
    expect(noiseRange([body(), body(null)])).toBeNull();
  });
});
