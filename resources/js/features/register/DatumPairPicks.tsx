import { useWorkspace } from '../../state/context';
import { canLieOn, type DatumPair, MOST_PAIRS, onesOf, onesToLieOn } from './datumPairs';

const ORDINAL = ['First', 'Second', 'Third'] as const;

/** Which datums of what moves come to lie on which others; the first pair decides most. */
export function DatumPairPicks({ value, moving, onChange }: { value: readonly DatumPair[]; moving: string | undefined; onChange: (pairs: DatumPair[]) => void }) {
  const { data } = useWorkspace();
  const { datums, bodies, passes } = data.snapshot;
  const own = onesOf(datums, moving);
  if (!moving) return null;
  if (own.length === 0) return <p>{[...bodies, ...passes].find((item) => item.id === moving)?.name ?? 'What moves'} has no datum yet: add one on it under Orient.</p>;
  const set = (k: number, pair: DatumPair | null) => onChange(pair ? [...value.slice(0, k), pair, ...value.slice(k + 1)] : value.filter((_, i) => i !== k));
  const rows = value.length < MOST_PAIRS && value.length < own.length ? [...value, null] : value;
  return (
    <fieldset className="grid gap-1.5">
      <legend>Datums laid on datums</legend>
      {rows.map((pair, k) => {
        const from = datums.find((d) => d.id === pair?.from);
        const free = own.filter((d) => d.id === pair?.from || !value.some((other) => other.from === d.id));
        return (
          // biome-ignore lint/suspicious/noArrayIndexKey: a pair is its place
          <div key={k} className="grid grid-cols-[1fr_auto_1fr] items-center gap-x-1.5 gap-y-1">
            <select className="select select-sm w-full" aria-label={`${ORDINAL[k]} datum of what moves`} value={pair?.from ?? ''} onChange={(e) => set(k, e.target.value ? { from: e.target.value, to: '' } : null)}>
              <option value="">{k === 0 ? 'choose' : 'none'}</option>
              {free.map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </select>
            <span>on</span>
            <select className="select select-sm w-full" aria-label={`What the ${ORDINAL[k]?.toLowerCase()} one comes to lie on`} disabled={!from} title={from ? undefined : 'Choose a datum of what moves first'} value={pair?.to ?? ''} onChange={(e) => pair && set(k, { ...pair, to: e.target.value })}>
              <option value="">choose</option>
              {(from ? onesToLieOn(datums, from, moving) : []).map((d) => (
                <option key={d.id} value={d.id}>
                  {d.name}
                </option>
              ))}
            </select>
            {pair && from && canLieOn(from) !== 'point' && canLieOn(from) !== 'frame' ? (
              <label className="col-span-3 flex items-center gap-1.5 justify-self-end">
                <input type="checkbox" className="checkbox checkbox-xs" checked={pair.flip ?? false} onChange={(e) => set(k, { ...pair, flip: e.target.checked })} />
                {from.kind === 'plane' ? 'outsides face each other' : 'the other way round'}
              </label>
            ) : null}
          </div>
        );
      })}
    </fieldset>
  );
}
