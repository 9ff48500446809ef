import { useCallback, useEffect, useMemo } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../state/context';
import { SelectionPicks } from '../gather/SelectionPicks';
import { type Construction, type Hold, NO_TYPED, type Typed } from '../../operations/add-datum/datum';
import type { DatumBy } from '../../state/view/store';
import { ConstructPicks } from './ConstructPicks';
import { HoldPicks } from './HoldPicks';
import { KindHint, useSurfaceKind } from './KindHint';
import { TypedDatum } from './TypedDatum';

const HOW: Record<string, string> = {
  plane: 'Click a flat place and the area spreads by itself, or pick three points or more.',
  sphere: 'Click a ball and the area spreads by itself, or pick four points or more.',
  line: 'Click two places or more that it goes through.',
  point: 'Click the place.',
};

/** What a new datum is made of; shows at once what a click on the part would fit. */
export function DatumPicks({
  kind,
  seenKind,
  angle,
  construct,
  hold,
  typed,
  nth,
  frameOf,
  onSet,
}: {
  kind: string;
  seenKind: string | undefined;
  angle: number;
  construct: Construction | undefined;
  hold: Hold | undefined;
  typed: Typed | undefined;
  nth: number;
  frameOf: string | undefined;
  onSet: (name: string, value: unknown) => void;
}) {
  const { projectId, store, data, commands } = useWorkspace();
  const picks = useView((s) => s.picks);
  const by = useView((s) => s.datumBy);
  const hasDatums = data.snapshot.datums.length > 0;
  const isOfSurface = kind !== 'point' && kind !== 'line' && kind !== 'frame';
  const only = by === 'click' && picks.length === 1 && picks[0]?.kind === 'body' && isOfSurface ? picks[0] : null;
  const selection = useView((s) => s.selection);
  // The first mesh that has something brushed, as the step takes it.
  const brushed = by === 'brush' && isOfSurface ? data.snapshot.bodies.flatMap((b) => selection.filter((s) => b.kind === 'mesh' && s.target === b.id && s.count > 0))[0] : undefined;
  const held = hold ? JSON.stringify(hold) : '';
  const take = useCallback(
    (value: string, seen: string) => {
      onSet('kind', value);
      onSet('seenKind', seen);
    },
    [onSet],
  );
  const clicked = useMemo(() => (only ? { body: only.itemId, face: only.index } : null), [only]);
  const surface = useSurfaceKind(clicked, angle, kind, seenKind, take);
  useEffect(() => {
    // A preview of the former kind would only say that this surface is another.
    const where = clicked && surface.isSettled ? { ...clicked, angle } : brushed ? { body: brushed.target, ranges: brushed.ranges } : null;
    if (!where) {
      store.setState({ datumPreview: null });
      return;
    }
    let live = true;
    api
      .datumPreview(projectId, { ...where, kind, ...(held === '' ? {} : { hold: JSON.parse(held) }) })
      .then((found) => live && store.setState({ datumPreview: { ...found, bodyId: where.body } }))
      .catch((problem: Error) => {
        if (live) {
          store.setState({ datumPreview: null });
          toast.error(problem.message);
        }
      });
    return () => {
      live = false;
    };
  }, [clicked, surface.isSettled, brushed, kind, angle, held, projectId, store]);
  const isFitted = kind !== 'point' && kind !== 'line' && (by === 'brush' || (by === 'click' && (picks.length <= 1 || kind === 'cylinder' || kind === 'cone')));
  // What is left of one way of making it must not be taken for another's.
  const choose = (datumBy: DatumBy) => {
    commands.clearGesture();
    store.setState({ datumBy, selectTool: datumBy === 'brush' ? 'brush' : null });
  };
  if (kind === 'frame' && by !== 'datums') {
    return (
      <label className="grid gap-1">
        <span className="opacity-85">Kept under its name, and set again by choosing it in Set frame.</span>
        <select className="select select-sm w-full" aria-label="Frame of" value={frameOf ?? ''} onChange={(e) => onSet('frameOf', e.target.value || undefined)}>
          <option value="">the frame that is set now</option>
          {data.snapshot.bodies.map((b) => (
            <option key={b.id} value={b.id}>
              the one {b.name} came in
            </option>
          ))}
        </select>
      </label>
    );
  }
  return (
    <>
      <Choice label="Made of" options={[{ value: 'click', label: 'Clicks' }, { value: 'brush', label: 'Brush' }, ...(hasDatums ? [{ value: 'datums' as const, label: 'Datums' }] : []), { value: 'typed', label: 'Typed' }, { value: 'shape', label: 'Shape' }]} value={by} onChoose={choose} />
      {by === 'click' ? <p className="opacity-85">{HOW[kind] ?? 'Click anywhere on the round surface: the area spreads by itself. Further clicks join other areas of the same shape, such as the far end of a bore.'}</p> : null}
      {by === 'brush' ? <SelectionPicks /> : null}
      {by === 'datums' ? <ConstructPicks value={construct} onChange={(value) => onSet('construct', value)} /> : null}
      {by === 'typed' ? <TypedDatum kind={kind} value={typed ?? NO_TYPED} onChange={(value) => onSet('typed', value)} /> : null}
      {by === 'shape' ? <p className="opacity-85">{kind === 'line' ? 'The axis that the whole body is turned about.' : 'The plane that mirrors the whole body into itself. Where there are several, the step says how many.'}</p> : null}
      {by === 'shape' && kind === 'plane' ? (
        <label className="flex items-center gap-1">
          <span className="flex-1">Which, the best first</span>
          <input className="input input-sm w-20 text-right" type="number" min={1} step={1} aria-label="Which mirror" value={nth} onChange={(e) => onSet('nth', Math.max(1, Math.round(Number(e.target.value))))} />
        </label>
      ) : null}
      <KindHint surface={surface} kind={kind} seen={seenKind} onKind={take} />
      {isFitted ? <HoldPicks kind={kind} value={hold} onChange={(value) => onSet('hold', value)} /> : null}
    </>
  );
}
