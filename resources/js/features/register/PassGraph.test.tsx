import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import { onRing, PassGraph } from './PassGraph';
import type { PairLine } from './RegisterReport';

const pair = (moving: string, still: string, overlap: number, residual: number): PairLine => ({ moving, still, overlap, residual });
const weak = pair('C', 'A', 0.1, 0.2);

describe('the graph of passes', () => {
  const draw = (names: string[]) => renderToStaticMarkup(<PassGraph names={names} pairs={[pair('A', 'B', 0.5, 0.02), pair('B', 'A', 0.6, 0.02), weak]} most={0.2} weakest={weak} worst="C" />);

  it('has a line for every two with surface in common, once', () => {
    const html = draw(['A', 'B', 'C']);
    expect(html.match(/<line/g)).toHaveLength(2);
    expect(html.match(/<circle/g)).toHaveLength(3);
    expect(html).toContain('3 passes, 2 pairs with surface in common; the weakest link joins C and A');
  });
  it('draws more in common wider, and the weakest link alone dashed', () => {
    const html = draw(['A', 'B', 'C']);
    expect(html).toContain('stroke-width="3.1"');
    expect(html.match(/stroke-dasharray/g)).toHaveLength(1);
  });
  it('is left out where it would say nothing, or be a knot', () => {
    expect(draw(['A', 'B'])).toBe('');
    expect(draw(Array.from({ length: 25 }, (_, k) => `${k}`))).toBe('');
  });
  it('begins at the top', () => expect(onRing(0, 8)[1]).toBeLessThan(onRing(1, 8)[1]));
});
