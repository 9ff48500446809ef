import { Plus, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import { api } from '../../api/client';
import type { LengthPreview } from '../../api/types';
import { parseLength } from '../../ui/format';
import { useView, useWorkspace } from '../../state/context';
import { type Lengths, NO_LENGTHS, sentLengths } from './lengths';

/** Takes a length as it is typed, in any unit that is said. */
function Actual({ label, onChange }: { label: string; onChange: (value: number | undefined) => void }) {
  const [text, setText] = useState('');
  const bad = text.trim() !== '' && parseLength(text) === null;
  return (
    <input
      className={`input input-sm w-16 shrink-0 text-right ${bad ? 'input-error' : ''}`}
      value={text}
      inputMode="decimal"
      aria-label={label}
      aria-invalid={bad}
      placeholder="actual"
      onChange={(e) => {
        setText(e.target.value);
        onChange(parseLength(e.target.value) ?? undefined);
      }}
    />
  );
}

/** Lengths known from the real part: two clicks each, or two datums; what each is on the mesh, and what it misses by when all are balanced. */
export function LengthPicks({ value, onChange }: { value: Lengths | undefined; onChange: (value: Lengths) => void }) {
  const { data, projectId } = useWorkspace();
  const picks = useView((s) => s.picks);
  const lengths = value ?? NO_LENGTHS;
  const datums = data.snapshot.datums;
  const nameOf = (id: string) => datums.find((d) => d.id === id)?.name ?? id;
  const sent = sentLengths(lengths, picks);
  const ready = sent.length > 0 && sent.every((l) => l.actual !== undefined);
  const [found, setFound] = useState<LengthPreview | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const key = ready ? JSON.stringify(sent) : '';
  useEffect(() => {
    setFound(null);
    setProblem(null);
    if (key === '') return;
    let live = true;
    api
      .lengthPreview(projectId, JSON.parse(key))
      .then((answer) => live && setFound(answer))
      .catch((refused: Error) => live && setProblem(refused.message));
    return () => {
      live = false;
    };
  }, [key, projectId]);
  const pairs = Math.floor(picks.length / 2);
  const setBetween = (k: number, change: Partial<Lengths['between'][number]>) => onChange({ ...lengths, between: lengths.between.map((row, j) => (j === k ? { ...row, ...change } : row)) });
  const says = (k: number) => {
    const length = found?.lengths[k];
    return length ? `${length.measured.toFixed(2)} mm` : null;
  };
  /** Only several lengths can disagree. */
  const missed = (k: number) => (found && found.lengths.length > 1 ? <p className="opacity-85">off by {found.lengths[k]?.residual.toFixed(3)} mm after scaling</p> : null);
  return (
    <div className="grid grid-cols-1 gap-1">
      <p className="opacity-85">Or known lengths: click both ends of one on the part and type what it is in truth.</p>
      {Array.from({ length: pairs }, (_, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: a length is its number
        <div key={k}>
          <div className="flex items-center gap-1">
            <span className="flex-1 truncate">
              {k + 1} · {says(k) ?? `${Math.hypot(...[0, 1, 2].map((c) => (picks[2 * k + 1]?.pointMm[c] ?? 0) - (picks[2 * k]?.pointMm[c] ?? 0))).toFixed(2)} mm`}
            </span>
            <Actual label={`Actual length ${k + 1}`} onChange={(actual) => onChange({ ...lengths, picked: Object.assign([...lengths.picked], { [k]: actual }) })} />
            <span className="w-7 opacity-80">mm</span>
          </div>
          {missed(k)}
        </div>
      ))}
      {lengths.between.map((row, k) => (
        // biome-ignore lint/suspicious/noArrayIndexKey: rows are only added and taken away at the end
        <div key={k} className="grid grid-cols-1 gap-1">
          <div className="flex items-center gap-1">
            {(['from', 'to'] as const).map((end) => (
              <select key={end} className="select select-sm min-w-0 flex-1" aria-label={`Length ${k + 1} ${end}`} value={row[end]} onChange={(e) => setBetween(k, { [end]: e.target.value })}>
                {datums.map((d) => (
                  <option key={d.id} value={d.id}>
                    {nameOf(d.id)}
                  </option>
                ))}
              </select>
            ))}
          </div>
          <div className="flex items-center gap-1">
            <span className="flex-1 truncate">{says(pairs + k) ?? 'between datums'}</span>
            <Actual label={`Actual length between datums ${k + 1}`} onChange={(actual) => setBetween(k, { actual })} />
            <span className="w-7 opacity-80">mm</span>
          </div>
          {missed(pairs + k)}
        </div>
      ))}
      {datums.length > 1 ? (
        <div className="flex gap-1">
          <button type="button" className="btn btn-xs font-normal" onClick={() => onChange({ ...lengths, between: [...lengths.between, { from: datums[0]?.id ?? '', to: datums[1]?.id ?? '' }] })}>
            <Plus size={12} aria-hidden /> Between datums
          </button>
          {lengths.between.length > 0 ? (
            <button type="button" className="btn btn-xs font-normal" onClick={() => onChange({ ...lengths, between: lengths.between.slice(0, -1) })}>
              <X size={12} aria-hidden /> Take the last away
            </button>
          ) : null}
        </div>
      ) : null}
      {found ? <p>Factor {found.factor.toPrecision(6)}.</p> : null}
      {problem ? <p className="text-warning">{problem}</p> : null}
    </div>
  );
}
