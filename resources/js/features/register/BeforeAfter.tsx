import { useEffect } from 'react';
import { useView, useWorkspace } from '../../workspace/context';
import type { PassLine } from './RegisterReport';

const stands = (a: readonly number[], b: readonly number[]): boolean => a.length === b.length && a.every((v, k) => Math.abs(v - (b[k] ?? 0)) < 1e-6);

/** Shows the passes where they stood before the step, and back again; nothing where something has moved them since. */
export function BeforeAfter({ passes }: { passes: readonly PassLine[] }) {
  const { data, store } = useWorkspace();
  const isBefore = useView((s) => s.before !== null);
  useEffect(() => () => store.setState({ before: null }), [store]);
  const here = passes.flatMap(({ id, is, back }) => {
    const pass = data.snapshot.passes.find((p) => p.id === id);
    return pass && is && back && stands(is, pass.transform) ? [{ id: pass.id, by: back }] : [];
  });
  if (here.length < 2) return null;
  return (
    <div className="join w-full" role="radiogroup" aria-label="Passes stand as">
      {(['Before', 'After'] as const).map((name) => {
        const isChosen = isBefore === (name === 'Before');
        return (
          <button key={name} type="button" role="radio" aria-checked={isChosen} className={`btn btn-xs join-item flex-1 font-normal ${isChosen ? 'border-base-content/60 bg-neutral font-semibold' : ''}`} onClick={() => store.setState({ before: name === 'Before' ? here : null })}>
            {name}
          </button>
        );
      })}
    </div>
  );
}
