import { Check, CircleHelp, Copy, X } from 'lucide-react';
import { useWorkspace } from '../../state/context';
import { asTable, listed, type Measured } from './measured';

const VERDICTS = {
  in: { icon: Check, words: 'in tolerance', tone: 'text-success' },
  out: { icon: X, words: 'out of tolerance', tone: 'text-error' },
  unsure: { icon: CircleHelp, words: 'too near the limit to tell', tone: 'text-warning' },
} as const;

function Verdict({ verdict }: { verdict: NonNullable<Measured['verdict']> }) {
  const { icon: Icon, words, tone } = VERDICTS[verdict];
  return (
    <span className={`flex items-center gap-1 ${tone}`}>
      <Icon size={13} aria-hidden /> {words}
    </span>
  );
}

/** All that was measured, as it stands now, and the same to paste into a table. */
export function Measurements() {
  const { data } = useWorkspace();
  const all = listed(data.steps);
  if (all.length === 0) return null;
  return (
    <section className="grid gap-2 rounded-box border border-neutral p-2" aria-label="Measurements">
      <div className="flex items-center gap-2">
        <h3 className="flex-1 font-semibold">Measurements</h3>
        <button type="button" className="btn btn-xs" onClick={() => void navigator.clipboard.writeText(asTable(all))}>
          <Copy size={12} aria-hidden /> Copy as a table
        </button>
      </div>
      <ul className="grid gap-1.5">
        {all.map((m) => (
          <li key={m.step} className="grid gap-0.5">
            <span className="flex gap-2">
              <span className="min-w-0 flex-1 truncate" title={m.name}>
                {m.name}
              </span>
              <span className="tabular-nums">{m.words}</span>
            </span>
            {m.verdict ? <Verdict verdict={m.verdict} /> : null}
          </li>
        ))}
      </ul>
    </section>
  );
}
