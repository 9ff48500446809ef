/** A head of a fixture: what it saw of the target. */
export interface HeadLine {
  name: string;
  balls?: number;
  /** flat faces */
  planes?: number;
  residual: number | null;
}

/** How well each head's pose is known, the worst one said by name. */
export function FixtureReport({ heads }: { heads: readonly HeadLine[] }) {
  const worst = [...heads].sort((a, b) => (b.residual ?? 0) - (a.residual ?? 0))[0];
  const most = Math.max(1e-9, worst?.residual ?? 0);
  const counted = (['balls', 'planes'] as const).filter((kind) => heads.some((h) => h[kind] !== undefined));
  return (
    <section className="grid gap-1.5" aria-label="Heads">
      {heads.length > 1 && worst?.residual != null ? (
        <p>
          Fits worst: <strong>{worst.name}</strong>, {worst.residual.toFixed(3)} mm.
        </p>
      ) : null}
      <table className="text-xs">
        <thead>
          <tr className="text-left opacity-80">
            <th className="font-normal">Head</th>
            {counted.map((kind) => (
              <th key={kind} className="pl-2 text-right font-normal">
                {kind === 'planes' ? 'flat faces' : kind}
              </th>
            ))}
            <th className="text-right font-normal">residual, mm</th>
            <th aria-hidden />
          </tr>
        </thead>
        <tbody>
          {heads.map((head) => (
            <tr key={head.name}>
              <td className="max-w-32 truncate py-0.5" title={head.name}>
                {head.name}
              </td>
              {counted.map((kind) => (
                <td key={kind} className="text-right">
                  {head[kind] ?? '–'}
                </td>
              ))}
              <td className="text-right">{head.residual?.toFixed(3) ?? '–'}</td>
              <td className="w-20 pl-2" aria-hidden>
                <span className="block h-1.5 rounded-sm bg-base-content/50" style={{ width: `${(100 * (head.residual ?? 0)) / most}%` }} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
