import { useView, useWorkspace } from '../../workspace/context';

/** The picked pairs in words. */
export function PairPicks({ moving }: { moving: string | undefined }) {
  const { data } = useWorkspace();
  const picks = useView((s) => s.picks);
  const nameOf = (id: string) => data.snapshot.passes.find((p) => p.id === id)?.name ?? '';
  const wrong = picks.find((p, k) => moving && (p.itemId === moving) !== (k % 2 === 0));
  return (
    <div>
      <ol className="grid gap-0.5">
        {picks.map((p, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a pick is its number
          <li key={k}>
            {1 + (k >> 1)} · {k % 2 === 0 ? 'moving' : 'fixed'} · {nameOf(p.itemId)}
          </li>
        ))}
      </ol>
      <p className="opacity-85">{wrong ? 'A pick is on the wrong pass: odd picks belong on the moving one. Backspace removes the last.' : 'Same places, same order: moving pass first, then its partner. Backspace removes the last pick.'}</p>
    </div>
  );
}
