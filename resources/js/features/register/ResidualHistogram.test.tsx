import { renderToStaticMarkup } from 'react-dom/server';
import { describe, expect, it } from 'vitest';
import { ResidualHistogram } from './ResidualHistogram';

describe('the histogram of residuals', () => {
  const html = renderToStaticMarkup(<ResidualHistogram histogram={{ fromMm: -0.2, toMm: 0.2, shares: [0.1, 0.4, 0.4, 0.1], within50Mm: 0.034, within95Mm: 0.151 }} />);

  it('says in words what it draws', () => expect(html).toContain('Half of the points lie within 0.034 mm of the surface of other passes, 95 % within 0.151 mm.'));
  it('draws the most frequent at full height and a quarter of that at a quarter', () => {
    expect(html.match(/<rect/g)).toHaveLength(4);
    expect(html.match(/height="44"/g)).toHaveLength(2);
    expect(html.match(/height="11"/g)).toHaveLength(2);
  });
});
