import type { MeshFigures } from '../api/types';
import { madeUpShares } from './madeUpShares';

/** How much of a surface was measured, and how the rest came to be, with the hatch that it has in the view. */
export function EvidenceLegend({ figures }: { figures: Pick<MeshFigures, 'measured' | 'madeUp'> }) {
  return (
    <ul className="absolute bottom-3 right-3 grid gap-1 rounded-box bg-base-100/85 p-2" aria-label="Legend">
      <li className="flex items-center gap-2">
        <span className="size-3 rounded-sm" style={{ background: '#b9ac99' }} aria-hidden /> measured {(100 * figures.measured).toFixed(1)} %
      </li>
      {madeUpShares(figures).map(({ name, sign, percent }) => (
        <li key={name} className="flex items-center gap-2">
          <span className={`${sign} size-3 rounded-sm`} aria-hidden /> {name} {percent} %
        </li>
      ))}
    </ul>
  );
}
