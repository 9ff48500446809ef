import { describe, expect, it } from 'vitest';
import { madeUpShares } from './madeUpShares';

describe('the shares of made-up surface', () => {
  it('leaves out ways by which nothing was made', () => {
    expect(madeUpShares({ measured: 0.9, madeUp: { 'closed in the volume': 0.08, strip: 0.02 } })).toEqual([
      { name: 'strip', sign: 'hatch-cross', percent: '2.0' },
      { name: 'closed in the volume', sign: 'hatch-level', percent: '8.0' },
    ]);
  });

  it('says so when nothing was made up', () => {
    expect(madeUpShares({ measured: 1, madeUp: {} })).toEqual([{ name: 'filled', sign: 'hatch', percent: '0.0' }]);
  });

  it('takes older figures, which know filled surface only', () => {
    expect(madeUpShares({ measured: 0.75 }).map((s) => `${s.name} ${s.percent}`)).toEqual(['filled 25.0']);
  });
});
