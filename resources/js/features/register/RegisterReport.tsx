import { Scissors } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import type { StepItem } from '../../api/types';
import { Choice } from '../../ui/Choice';
import { useWorkspace } from '../../state/context';
import { MapChoice } from '../gather/MapChoice';
import { DoubleSkins, gapFor, type Skin } from '../gather/DoubleSkins';
import { PassGraph } from './PassGraph';
import { type Histogram, ResidualHistogram } from './ResidualHistogram';

export interface PairLine {
  moving: string;
  still: string;
  overlap: number;
  residual: number;
}

/** What became of one pass; steps of earlier releases say less. */
export interface PassLine {
  id?: string;
  name: string;
  residual: number;
  overlap: number;
  /** mm, the farthest corner */
  moved?: number;
  /** degrees */
  turned?: number;
  /** how well the points know where it stands; null for passes that stay */
  standardError?: { shiftMm: number; turnDeg: number; direction: [number, number, number]; held: boolean } | null;
}

/** Where a pass stands, to so much, in words; and the direction that its points know least. */
export function knownTo(pass: PassLine): { short: string; long: string } | null {
  const error = pass.standardError;
  if (error === undefined) return null;
  if (error === null) return { short: 'stays', long: `${pass.name} stays where it is` };
  const along = error.direction.map((v) => v.toFixed(2)).join(', ');
  return error.held
    ? { short: `± ${error.shiftMm.toFixed(3)}`, long: `Known to ± ${error.shiftMm.toFixed(3)} mm along (${along}), the direction its points know least, and to ± ${error.turnDeg.toFixed(3)}° (one standard error)` }
    : { short: 'not held', long: `Little that others saw too holds it along (${along}); across that it is known to ± ${error.shiftMm.toFixed(3)} mm` };
}

/** What the cells of the matrix say. */
const CELLS = {
  residual: { label: 'How well they fit', of: (pair: PairLine) => (1000 * pair.residual).toFixed(0), words: 'Residuals in thousandths of a millimetre' },
  overlap: { label: 'How much in common', of: (pair: PairLine) => (100 * pair.overlap).toFixed(0), words: 'Per cent of what was seen that both saw' },
} as const;

const CELL_CHOICES = (Object.keys(CELLS) as (keyof typeof CELLS)[]).map((value) => ({ value, label: CELLS[value].label }));

/** Passes in the order they are named first, the residual of each pair both ways, and the pair and pass that fit worst. */
export function digest(pairs: readonly PairLine[]) {
  const names = [...new Set(pairs.flatMap((p) => [p.moving, p.still]))].sort((a, b) => a.localeCompare(b, undefined, { numeric: true }));
  const cell = (a: string, b: string) => pairs.find((p) => p.moving === a && p.still === b) ?? pairs.find((p) => p.moving === b && p.still === a) ?? null;
  const mean = (name: string) => {
    const of = pairs.filter((p) => p.moving === name || p.still === name).map((p) => p.residual);
    return Math.sqrt(of.reduce((n, r) => n + r * r, 0) / Math.max(1, of.length));
  };
  const worst = [...names].sort((a, b) => mean(b) - mean(a))[0] ?? null;
  const weakest = [...pairs].sort((a, b) => a.overlap - b.overlap)[0] ?? null;
  const most = Math.max(1e-9, ...pairs.map((p) => p.residual));
  return { names, cell, mean, worst, weakest, most };
}

/** Which pass fits which, as a graph and a matrix, and where each went; which one fits worst, and taking it out. */
export function RegisterReport({ step, pairs }: { step: StepItem; pairs: PairLine[] }) {
  const { data, projectId, run, commands } = useWorkspace();
  const { names, cell, mean, worst, weakest, most } = digest(pairs);
  const doubtful = (step.figures?.after.doubtful as string | null | undefined) ?? worst;
  const bad = data.snapshot.passes.find((p) => p.name === doubtful);
  const busy = data.steps.some((s) => s.state === 'running' || s.state === 'waiting');
  const without = () =>
    run(async () => {
      if (!bad) return;
      await api.addStep(projectId, 'discard', { on: [bad.id] });
      const locked = (step.parameters.locked as string[] | undefined)?.filter((id) => id !== bad.id);
      await api.addStep(projectId, 'register', { ...step.parameters, ...(locked && locked.length > 0 ? { locked } : {}) });
      commands.openOperation(null);
    });
  const [cells, setCells] = useState<keyof typeof CELLS>('residual');
  const passes = (step.figures?.after.passes as PassLine[] | undefined) ?? [];
  const skins = (step.figures?.after.doubleSkins as Skin[] | undefined) ?? [];
  const rounds = step.figures?.after.rounds as number | undefined;
  const histogram = step.figures?.after.histogram as Histogram | null | undefined;
  if (names.length === 0) return null;
  return (
    <section className="grid gap-2" aria-label="How passes fit">
      {worst ? (
        <p>
          {doubtful === worst ? 'Fits worst' : 'Stands wrong'}: <strong>{doubtful}</strong>
          {doubtful ? `, residual ${mean(doubtful).toFixed(3)} mm` : ''}.{weakest ? ` Weakest link: ${weakest.moving} and ${weakest.still}, ${Math.round(100 * weakest.overlap)} % in common.` : ''}
        </p>
      ) : null}
      <DoubleSkins skins={skins} onResolve={step.state === 'done' ? (by) => commands.reopen('resolve-double-skin', 'fuse', { by, gap: gapFor(skins) }) : undefined} />
      <PassGraph names={names} pairs={pairs} most={most} weakest={weakest} worst={doubtful} />
      <MapChoice maps={step.figures?.maps ?? []} />
      {histogram ? <ResidualHistogram histogram={histogram} /> : null}
      <Choice label="Cells say" options={CELL_CHOICES} value={cells} onChoose={setCells} />
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a wide table scrolls, from the keyboard too */}
      <div className="overflow-x-auto" tabIndex={0} role="region" aria-label="Residuals by pair">
        <table className="text-xs">
          <thead>
            <tr>
              <td />
              {names.map((n, k) => (
                <th key={n} className="px-1 text-right font-normal opacity-80" title={n}>
                  {k + 1}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {names.map((a, k) => (
              <tr key={a}>
                <th className="max-w-20 truncate pr-1 text-left font-normal opacity-85" title={a}>
                  {k + 1} {a}
                </th>
                {names.map((b) => {
                  const pair = a === b ? null : cell(a, b);
                  return (
                    <td
                      key={b}
                      className="px-1 text-right tabular-nums"
                      title={pair ? `${a} and ${b}: residual ${pair.residual.toFixed(3)} mm, ${Math.round(100 * pair.overlap)} % in common` : undefined}
                      style={pair ? { background: `color-mix(in oklab, var(--color-warning) ${Math.round(45 * (pair.residual / most))}%, transparent)` } : undefined}
                    >
                      {a === b ? '·' : pair ? CELLS[cells].of(pair) : ''}
                    </td>
                  );
                })}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      <p className="opacity-85">{CELLS[cells].words}; an empty cell is a pair that has nothing in common.</p>
      {passes.some((pass) => pass.moved !== undefined) ? (
        <table className="text-xs" aria-label="Where each pass went">
          <thead>
            <tr className="text-right opacity-80">
              <th className="text-left font-normal">Pass</th>
              <th className="font-normal">moved, mm</th>
              <th className="font-normal">turned, °</th>
              <th className="font-normal">residual, mm</th>
              {passes.some((pass) => pass.standardError !== undefined) ? <th className="font-normal">known to, mm</th> : null}
            </tr>
          </thead>
          <tbody>
            {passes.map((pass) => (
              <tr key={pass.id ?? pass.name} className="text-right tabular-nums">
                <td className="max-w-24 truncate text-left" title={pass.name}>
                  {pass.name}
                </td>
                <td>{pass.moved?.toFixed(2)}</td>
                <td>{pass.turned?.toFixed(2)}</td>
                <td>{pass.residual.toFixed(3)}</td>
                {pass.standardError !== undefined ? <td title={knownTo(pass)?.long}>{knownTo(pass)?.short}</td> : null}
              </tr>
            ))}
          </tbody>
        </table>
      ) : null}
      {passes.some((pass) => pass.standardError) ? <p className="opacity-85">Known to: one standard error of where the middle of a pass stands, in the direction that its points know least.</p> : null}
      {rounds ? <p className="opacity-85">All together in {rounds} rounds.</p> : null}
      {bad && names.length > 2 && step.state === 'done' ? (
        <button type="button" className="btn btn-sm font-normal" disabled={busy} title={busy ? 'A step is running' : 'Two steps; Undo brings it back'} onClick={without}>
          <Scissors size={13} aria-hidden /> Take {bad.name} out and register again
        </button>
      ) : null}
    </section>
  );
}
