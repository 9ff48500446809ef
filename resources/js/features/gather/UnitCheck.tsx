import { api } from '../../api/client';
import type { ProjectState } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { sizeQuestion, unitQuestion } from './unitQuestion';

/** Those that are still there. */
const among = (items: readonly string[], { passes, bodies }: ProjectState['snapshot']): string[] => [...passes, ...bodies].map((i) => i.id).filter((id) => items.includes(id));

/** Points out passes that are far larger or smaller than the rest, and offers the unit that would explain it. */
function SizeCheck() {
  const { data, projectId, run } = useWorkspace();
  const question = sizeQuestion(data.steps);
  const groups = (question?.groups ?? []).map((g) => ({ ...g, on: among(g.items, data.snapshot) })).filter((g) => g.on.length > 0);
  if (groups.length === 0) return null;
  const nameOf = (id: string) => [...data.snapshot.passes, ...data.snapshot.bodies].find((i) => i.id === id)?.name ?? '';
  const answer = (units: 'new' | 'old') =>
    run(async () => {
      for (const g of groups) await api.addStep(projectId, 'set-unit', { unit: units === 'new' ? g.unit : g.was, was: g.was }, g.on);
    });
  return (
    <section className="mb-2 rounded-box border border-warning p-3" aria-label="Sizes that differ">
      {groups.map((g) => (
        <p key={g.unit + g.was}>
          {g.items.length === 1 ? `${nameOf(g.items[0] ?? '')} is` : `${g.items.length} passes are`} far from the size of the others. Read in {g.unit} instead of {g.was}: about {g.size} long. Change that?
        </p>
      ))}
      <div className="mt-2 grid grid-cols-2 gap-1">
        <button type="button" className="btn btn-sm btn-primary font-normal" onClick={() => answer('new')}>
          Yes, {[...new Set(groups.map((g) => g.unit))].join(' and ')}
        </button>
        <button type="button" className="btn btn-sm font-normal" onClick={() => answer('old')}>
          No, it is right
        </button>
      </div>
    </section>
  );
}

/** Asks for the unit of files that did not say it: the guess, the size it gives, and every other answer one click away. */
export function UnitCheck() {
  const { data, projectId, run } = useWorkspace();
  const question = unitQuestion(data.steps);
  if (sizeQuestion(data.steps)) return <SizeCheck />;
  if (!question) return null;
  const on = among(question.items, data.snapshot);
  const many = on.length;
  if (many === 0) return null;
  const guess = question.choices.find((c) => c.unit === question.unit);
  return (
    <section className="mb-2 rounded-box border border-warning p-3" aria-label="Unit of the files">
      <p>
        {many === 1 ? 'The file does' : `${many} files do`} not say the unit. Read as {question.unit}: about {guess?.size} long. Is that right?
      </p>
      <div className="mt-2 grid grid-cols-2 gap-1">
        {question.choices.map((c) => (
          <button key={c.unit} type="button" className={`btn btn-sm justify-between font-normal ${c.unit === question.unit ? 'btn-primary col-span-2' : ''}`} onClick={() => run(() => api.addStep(projectId, 'set-unit', { unit: c.unit, was: question.unit }, on))}>
            <span>{c.unit === question.unit ? `Yes, ${c.unit}` : c.unit}</span>
            <span className="opacity-85">{c.size}</span>
          </button>
        ))}
      </div>
    </section>
  );
}
