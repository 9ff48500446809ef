import type { PairLine } from './RegisterReport';

/** More passes than this make a knot, not a picture. */
const MOST = 24;

const [WIDTH, HEIGHT, RADIUS] = [270, 170, 66] as const;

/** Where pass k of n stands on the ring. */
export const onRing = (k: number, n: number): [number, number] => {
  const turn = (2 * Math.PI * k) / n - Math.PI / 2;
  return [WIDTH / 2 + 1.55 * RADIUS * Math.cos(turn), HEIGHT / 2 + RADIUS * Math.sin(turn)];
};

/** Passes on a ring, a line for every two that share surface: the wider the more, the warmer the worse they fit; the weakest link is dashed. */
export function PassGraph({ names, pairs, most, weakest, worst }: { names: readonly string[]; pairs: readonly PairLine[]; most: number; weakest: PairLine | null; worst: string | null }) {
  if (names.length < 3 || names.length > MOST) return null;
  const seen = new Set<string>();
  const lines = pairs.filter(({ moving, still }) => {
    const key = [moving, still].sort().join('\n');
    return !seen.has(key) && seen.add(key);
  });
  const at = (name: string) => onRing(names.indexOf(name), names.length);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full" role="img" aria-label={`${names.length} passes, ${lines.length} pairs with surface in common${weakest ? `; the weakest link joins ${weakest.moving} and ${weakest.still}` : ''}`}>
      {lines.map((pair) => {
        const [[x1, y1], [x2, y2]] = [at(pair.moving), at(pair.still)];
        return (
          <line key={`${pair.moving}\n${pair.still}`} x1={x1} y1={y1} x2={x2} y2={y2} strokeWidth={0.6 + 5 * pair.overlap} strokeDasharray={pair === weakest ? '4 3' : undefined} style={{ stroke: `color-mix(in oklab, var(--color-warning) ${Math.round(100 * (pair.residual / most))}%, var(--color-base-content) 40%)` }}>
            <title>{`${pair.moving} and ${pair.still}: ${Math.round(100 * pair.overlap)} % in common, residual ${pair.residual.toFixed(3)} mm`}</title>
          </line>
        );
      })}
      {names.map((name, k) => {
        const [x, y] = onRing(k, names.length);
        return (
          <g key={name}>
            <circle cx={x} cy={y} r={9} className="fill-base-100" strokeWidth={name === worst ? 2 : 1} style={{ stroke: name === worst ? 'var(--color-warning)' : 'var(--color-base-content)' }} />
            <text x={x} y={y + 3.5} textAnchor="middle" className="fill-base-content text-[10px]">
              {k + 1}
            </text>
            <title>{name}</title>
          </g>
        );
      })}
    </svg>
  );
}
