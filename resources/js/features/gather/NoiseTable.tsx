export interface NoiseLine {
  pass: string;
  points: number;
  spacingMm: number;
  noiseMm: number;
  outliers: number;
  off: number;
  grazing: number | null;
}

const percent = (share: number) => `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;

/** A line a pass: how far points lie apart, how noisy they are, how many stand off the surface or were seen along it. */
export function NoiseTable({ lines }: { lines: NoiseLine[] }) {
  const worst = Math.max(...lines.map((l) => l.noiseMm), 1e-9);
  return (
    <table className="table table-xs" aria-label="Noise by pass">
      <thead>
        <tr>
          <th className="px-1">Pass</th>
          <th className="px-1 text-right" title="Noise across the surface, millimetres">
            Noise mm
          </th>
          <th className="px-1 text-right" title="Points that stand off the surface">
            Off
          </th>
          <th className="px-1 text-right" title="Points seen nearly along the surface">
            Grazing
          </th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => (
          <tr key={l.pass}>
            <td className="max-w-22 truncate px-1" title={`${l.pass}: ${l.spacingMm.toFixed(2)} mm between points`}>
              {l.pass}
            </td>
            <td className="px-1 text-right">
              <span className="mr-1 inline-block h-1.5 rounded-sm bg-primary align-middle" style={{ width: `${(26 * l.noiseMm) / worst}px` }} aria-hidden />
              {l.noiseMm.toFixed(3)}
            </td>
            <td className="px-1 text-right">{percent(l.off)}</td>
            <td className="px-1 text-right">{l.grazing === null ? '–' : percent(l.grazing)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
