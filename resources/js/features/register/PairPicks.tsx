import { useEffect, useState } from 'react';
import { api } from '../../api/client';
import type { PairPreview } from '../../api/types';
import { useView, useWorkspace } from '../../state/context';

/** Pairs after which no place is named where one more would help. */
const ENOUGH = 6;

/** The picked pairs in words, the error of each as soon as three are there; the view shows what moves beside the others, and a pale copy where they would bring it. */
export function PairPicks({ moving, along, onto }: { moving: string | undefined; along: readonly string[]; onto?: string | undefined }) {
  const { data, projectId, store } = useWorkspace();
  const picks = useView((s) => s.picks);
  const hint = useView((s) => s.pickHint);
  const items = [...data.snapshot.passes, ...data.snapshot.bodies];
  const nameOf = (id: string) => items.find((p) => p.id === id)?.name ?? '';
  const group = moving ? [moving, ...along] : [];
  const groupKey = group.join();
  const wrong = picks.find((p, k) => moving && group.includes(p.itemId) !== (k % 2 === 0));
  const pairs = picks.flatMap((p, k) => (k % 2 === 1 ? [{ from: picks[k - 1]?.pointMm, to: p.pointMm }] : []));
  const [solved, setSolved] = useState<PairPreview | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const key = wrong || !moving ? '' : JSON.stringify(pairs);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which pairs
  useEffect(() => {
    setSolved(null);
    setProblem(null);
    store.setState({ movePreview: null, pickHint: null });
    if (pairs.length < 3 || key === '' || !moving) return;
    let live = true;
    api
      .pairPreview(projectId, pairs, moving)
      .then((found) => {
        if (!live) return;
        setSolved(found);
        store.setState({
          movePreview: { itemIds: group, transform: found.transform, asCopy: true },
          pickHint: found.hint && pairs.length < ENOUGH ? { itemId: moving, pointMm: found.hint } : null,
        });
      })
      .catch((refused: Error) => live && setProblem(refused.message));
    return () => {
      live = false;
    };
  }, [key, groupKey, projectId, store]);
  useEffect(() => {
    const moved = groupKey === '' ? null : groupKey.split(',');
    store.setState({ aside: moved, only: moved && onto ? [...moved, onto] : null });
    return () => store.setState({ aside: null, only: null });
  }, [groupKey, onto, store]);
  useEffect(() => () => store.setState({ movePreview: null, pickHint: null }), [store]);
  const worst = solved ? Math.max(...solved.residuals) : 0;
  return (
    <div className="grid gap-1">
      <ol className="grid gap-0.5" aria-label="Picked pairs">
        {picks.map((p, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a pick is its number
          <li key={k} className="flex">
            <span className="flex-1 truncate">
              {1 + (k >> 1)} · {k % 2 === 0 ? 'moving' : 'fixed'} · {nameOf(p.itemId)}
            </span>
            {k % 2 === 1 && solved ? <span className={solved.residuals[k >> 1] === worst && worst > 0.5 ? 'text-warning' : 'opacity-85'}>{(solved.residuals[k >> 1] ?? 0).toFixed(2)} mm off</span> : null}
          </li>
        ))}
      </ol>
      <p className={wrong || problem ? 'text-warning' : 'opacity-85'}>
        {wrong
          ? 'A pick is on the wrong pass: odd picks belong on the moving one. Backspace removes the last.'
          : (problem ??
            (solved ? 'The pale copy shows where these pairs would bring it.' : moving ? `Same places, same order: first on ${nameOf(moving)}, shown to the right, then on its partner. Backspace removes the last pick.` : 'Choose what moves: it is shown to the right of the others, to pick the same places on both.'))}
      </p>
      {solved?.caution ? <p className="text-warning">{solved.caution}</p> : null}
      {hint ? <p className="opacity-85">One more pick would help most near the + on {nameOf(hint.itemId)}.</p> : null}
    </div>
  );
}
