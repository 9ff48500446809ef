import { useQuery } from '@tanstack/react-query';
import { Check, TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';

/** Degrees beyond which a direction is not meant to lie along an axis. */
const MEANT = 5;

/** What the datums measure in the frame that is set, each with what its fit leaves open, and whether directions lie along the axes within a tolerance. */
export function FrameCheck() {
  const { projectId, data } = useWorkspace();
  const { datums } = data.snapshot;
  const [isOpen, setOpen] = useState(false);
  const [tolerance, setTolerance] = useState(0.1);
  const { data: rows } = useQuery({ queryKey: ['frame-check', projectId, datums], queryFn: () => api.frameCheck(projectId), enabled: isOpen });
  if (datums.length === 0) return null;
  return (
    <details className="mt-2 rounded-box border border-neutral p-2" open={isOpen} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary className="cursor-pointer">Check datums in the frame</summary>
      {rows ? (
        <>
          <label className="my-1 flex items-center gap-1">
            <span className="flex-1">Tolerance of angles</span>
            <input className="input input-sm w-20 text-right" type="number" min={0} step={0.01} aria-label="Tolerance of angles" value={tolerance} onChange={(e) => setTolerance(Math.max(0, Number(e.target.value)))} />
            <span className="w-4 opacity-80">°</span>
          </label>
          <table className="w-full tabular-nums" data-frame-check>
            <thead className="text-left opacity-85">
              <tr>
                <th scope="col">datum</th>
                <th scope="col" className="text-right">
                  is
                </th>
                <th scope="col" className="text-right" title="One standard deviation of the fit; a dash where none tells">
                  ±
                </th>
              </tr>
            </thead>
            <tbody>
              {rows.map((row, k) => {
                const digits = row.unit === 'deg' ? 3 : 2;
                const isJudged = row.unit === 'deg' && row.value < MEANT;
                const isOff = isJudged && row.value > tolerance;
                return (
                  <tr key={`${row.datum} ${row.what}`} className={isOff ? 'text-warning' : ''}>
                    <th scope="row" className="max-w-28 truncate text-left font-normal" title={`${row.datum}, ${row.what}`}>
                      {rows[k - 1]?.datum === row.datum ? <span className="sr-only">{row.datum}</span> : <span className="block truncate">{row.datum}</span>}
                      <span className="block text-xs opacity-85">{row.what}</span>
                    </th>
                    <td className="whitespace-nowrap text-right">
                      {isJudged ? isOff ? <TriangleAlert size={12} className="mr-1 inline" aria-label="outside the tolerance" /> : <Check size={12} className="mr-1 inline text-success" aria-label="within the tolerance" /> : null}
                      {row.value.toFixed(digits)} {row.unit === 'deg' ? '°' : 'mm'}
                    </td>
                    <td className="text-right">{row.plusMinus === null ? '–' : row.plusMinus.toFixed(digits + 1)}</td>
                  </tr>
                );
              })}
            </tbody>
          </table>
        </>
      ) : null}
    </details>
  );
}
