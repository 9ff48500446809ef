export interface Histogram {
  fromMm: number;
  toMm: number;
  shares: number[];
  within50Mm: number;
  within95Mm: number;
}

const HEIGHT = 44;

/** How far points lie in front of and behind the surface of the passes that saw the same. */
export function ResidualHistogram({ histogram }: { histogram: Histogram }) {
  const { shares, fromMm, toMm, within50Mm, within95Mm } = histogram;
  const most = Math.max(1e-9, ...shares);
  const words = `Half of the points lie within ${within50Mm.toFixed(3)} mm of the surface of other passes, 95 % within ${within95Mm.toFixed(3)} mm.`;
  return (
    <figure className="grid gap-1">
      <svg viewBox={`0 0 ${10 * shares.length} ${HEIGHT}`} className="w-full text-primary" role="img" aria-label={words}>
        {shares.map((share, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a bin is its place
          <rect key={k} x={10 * k + 1} width={8} y={HEIGHT - (HEIGHT * share) / most} height={(HEIGHT * share) / most} fill="currentColor" />
        ))}
        <line x1={5 * shares.length} x2={5 * shares.length} y1={0} y2={HEIGHT} className="stroke-base-content/60" strokeDasharray="3 3" />
      </svg>
      <span className="flex text-xs opacity-80">
        <span className="flex-1">{Math.abs(fromMm).toFixed(2)} mm behind</span>
        {toMm.toFixed(2)} mm in front
      </span>
      <figcaption className="opacity-85">{words}</figcaption>
    </figure>
  );
}
