import { Check, TriangleAlert, X } from 'lucide-react';
import { api } from '../api/client';
import type { StageName } from '../state/view/store';
import { useWorkspace } from './context';

const SIGNS = {
  good: { icon: Check, tint: 'text-success', words: 'met' },
  warn: { icon: TriangleAlert, tint: 'text-warning', words: 'nearly' },
  bad: { icon: X, tint: 'text-error', words: 'not met' },
};

/** What the receiver would still complain about, each line with the verb that fixes it. */
export function ReadyCard() {
  const { data, projectId, operations, commands, run } = useWorkspace();
  const good = data.readyCard.filter((l) => l.state === 'good').length;
  const fix = (name: string) => {
    if (name === 'confirm-scale') return { label: 'Confirm', act: () => run(() => api.confirmScale(projectId, true)) };
    const operation = operations.find((o) => o.name === name);
    return operation ? { label: operation.label, act: () => commands.openOperation(name, operation.stage as StageName) } : null;
  };
  return (
    <section className="border-t border-neutral p-3" aria-label="Ready card">
      <h2 className="mb-1 flex font-semibold">
        <span className="flex-1">Ready card</span>
        <span className="font-normal opacity-80">
          {good} of {data.readyCard.length}
        </span>
      </h2>
      <ul>
        {data.readyCard.map((line) => {
          const sign = SIGNS[line.state];
          const mend = line.fix ? fix(line.fix) : null;
          return (
            <li key={line.key} className="flex h-7 items-center gap-2" data-line={line.key} data-state={line.state}>
              <sign.icon size={15} className={sign.tint} aria-label={sign.words} />
              <span className="flex-1 whitespace-nowrap">{line.label}</span>
              <span className="truncate opacity-80" title={line.figure}>
                {line.figure}
              </span>
              {mend ? (
                <button type="button" className="link link-primary whitespace-nowrap no-underline hover:underline" onClick={mend.act}>
                  {mend.label}
                </button>
              ) : null}
            </li>
          );
        })}
      </ul>
    </section>
  );
}
