import { api } from '../../api/client';
import { useWorkspace } from '../../workspace/context';
import { unitQuestion } from './unitQuestion';

/** Asks for the unit of files that did not say it: the guess, the size it gives, and every other answer one click away. */
export function UnitCheck() {
  const { data, projectId, run } = useWorkspace();
  const question = unitQuestion(data.steps);
  if (!question) return null;
  const { passes, bodies } = data.snapshot;
  const targets = { passes: passes.filter((p) => question.items.includes(p.id)).map((p) => p.id), bodies: bodies.filter((b) => question.items.includes(b.id)).map((b) => b.id) };
  const many = targets.passes.length + targets.bodies.length;
  if (many === 0) return null;
  const guess = question.choices.find((c) => c.unit === question.unit);
  return (
    <section className="mb-2 rounded-box border border-warning p-3" aria-label="Unit of the files">
      <p>
        {many === 1 ? 'The file does' : `${many} files do`} not say the unit. Read as {question.unit}: about {guess?.size} long. Is that right?
      </p>
      <div className="mt-2 grid grid-cols-2 gap-1">
        {question.choices.map((c) => (
          <button key={c.unit} type="button" className={`btn btn-sm justify-between font-normal ${c.unit === question.unit ? 'btn-primary col-span-2' : ''}`} onClick={() => run(() => api.addStep(projectId, 'set-unit', { unit: c.unit, was: question.unit }, targets))}>
            <span>{c.unit === question.unit ? `Yes, ${c.unit}` : c.unit}</span>
            <span className="opacity-85">{c.size}</span>
          </button>
        ))}
      </div>
    </section>
  );
}
