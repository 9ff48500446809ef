export interface NoiseLine {
  pass: string;
  points: number;
  spacingMm: number;
  noiseMm: number;
  outliers: number;
  off: number;
  grazing: number | null;
  /** share of the rays of a structured pass on which nothing came back */
  empty: number | null;
}

const percent = (share: number) => `${(100 * share).toFixed(share < 0.1 ? 1 : 0)} %`;

/** A line a pass: how far points lie apart, how noisy they are, how many stand off the surface or were seen along it. */
export function NoiseTable({ lines }: { lines: NoiseLine[] }) {
  return (
    <table className="table table-xs w-full table-fixed" aria-label="Noise by pass">
      <thead>
        <tr>
          <th className="w-20 px-0">Pass</th>
          <th className="px-0 pl-1 text-right" title="Noise across the surface, millimetres">
            Noise mm
          </th>
          <th className="px-0 pl-1 text-right" title="Points that stand off the surface">
            Off
          </th>
          <th className="px-0 pl-1 text-right" title="Points seen nearly along the surface">
            Grazing
          </th>
        </tr>
      </thead>
      <tbody>
        {lines.map((l) => (
          <tr key={l.pass}>
            <td className="truncate px-0" title={`${l.pass}: ${l.spacingMm.toFixed(2)} mm between points${l.empty === null ? '' : `, ${percent(l.empty)} of the rays came back empty`}`}>
              {l.pass}
            </td>
            <td className="whitespace-nowrap px-0 text-right">{l.noiseMm.toFixed(3)}</td>
            <td className="whitespace-nowrap px-0 text-right">{percent(l.off)}</td>
            <td className="whitespace-nowrap px-0 text-right">{l.grazing === null ? '–' : percent(l.grazing)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}
