import { Copy, Crosshair, Eye, EyeOff, RotateCw } from 'lucide-react';
import { api } from '../../api/client';
import { useView, useWorkspace } from '../../state/context';
import { Verdict } from '../../ui/Verdict';
import { asTable, change, latest, listed, type Measured, standsOn } from './measured';

const middle = (line: Measured['line']): [number, number, number] => {
  const [a, b] = [line[0]!, line[line.length - 1]!];
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
};

/** All that was measured, as it stands now, and the same to paste into a table. */
export function Measurements() {
  const { data, projectId, run, store, viewport } = useWorkspace();
  const hidden = useView((s) => s.dimensionsHidden);
  const all = latest(listed(data.steps));
  if (all.length === 0) return null;
  const isOld = (m: Measured) => m.bodies.length > 0 && !standsOn(m, data.snapshot.bodies);
  const old = data.steps.filter((s) => all.some((m) => m.step === s.id && isOld(m)));
  // One after the other: the ledger keeps their order.
  const again = () =>
    run(async () => {
      for (const { operation, parameters, on } of old) await api.addStep(projectId, operation, parameters, on);
    });
  return (
    <section className="grid grid-cols-[minmax(0,1fr)] gap-2 rounded-box border border-neutral p-2" aria-label="Measurements">
      <div className="flex items-center gap-2">
        <h3 className="flex-1 font-semibold">Measurements</h3>
        <button type="button" className="btn btn-xs btn-square" aria-pressed={!hidden} aria-label="Draw them in the view" title={hidden ? 'Not drawn in the view' : 'Drawn in the view'} onClick={() => store.setState({ dimensionsHidden: !hidden })}>
          {hidden ? <EyeOff size={12} aria-hidden /> : <Eye size={12} aria-hidden />}
        </button>
        <button type="button" className="btn btn-xs" onClick={() => void navigator.clipboard.writeText(asTable(all))}>
          <Copy size={12} aria-hidden /> Copy as a table
        </button>
      </div>
      {old.length > 0 ? (
        <button type="button" className="btn btn-sm" onClick={again}>
          <RotateCw size={13} aria-hidden /> Measure again what is of the part as it was ({old.length})
        </button>
      ) : null}
      <ul className="grid grid-cols-[minmax(0,1fr)] gap-1.5">
        {all.map((m) => (
          <li key={`${m.step} ${m.name}`} className="grid grid-cols-[minmax(0,1fr)] gap-0.5">
            <span className="flex gap-2">
              <span className="min-w-0 flex-1 truncate" title={m.name}>
                {m.name}
              </span>
              <span className="tabular-nums">{m.words}</span>
              {m.line.length > 0 && standsOn(m, data.snapshot.bodies) ? (
                <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Go to ${m.name}`} title="Go there" onClick={() => viewport.current?.flyTo(middle(m.line), Math.max(20, 2.5 * m.value))}>
                  <Crosshair size={12} aria-hidden />
                </button>
              ) : null}
            </span>
            {isOld(m) ? <span className="text-warning">Of the part as it was before later steps.</span> : null}
            {change(m) ? <span className="opacity-85">{change(m)}</span> : null}
            {m.verdict ? <Verdict verdict={m.verdict} /> : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
