import { FlipHorizontal2, Pencil, X } from 'lucide-react';
import { useEffect, useState } from 'react';
import type { FieldsProps } from '../../operations/module';
import { placesOf } from '../../operations/places';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../state/context';
import { hit } from '../operations/pickedBefore';
import { FRAME_PLANES } from '../operations/planes';
import { kindOf, lengthOf, mirrored, type StrokeKind, strokesOf } from './strokes';

const KINDS: { kind: StrokeKind; label: string; name: string; title: string }[] = [
  { kind: 'flow', label: 'run along it', name: 'Flow stroke', title: 'Sides of cells near the stroke run in its direction' },
  { kind: 'edges', label: 'lie on it', name: 'Edge stroke', title: 'The stroke becomes a row of sides' },
];

/** Strokes on the part that guide cells: clicked place by place, kept one by one, listed, and drawn in the view. */
export function StrokeFields({ values, set }: Pick<FieldsProps, 'values' | 'set'>) {
  const { data, viewport, commands, store } = useWorkspace();
  const [mirror, setMirror] = useState('YZ');
  const picks = useView((s) => s.picks);
  const strokes = strokesOf(values, placesOf(picks));
  const isDrawn = picks.length >= 2;
  const planes = [...FRAME_PLANES.map((p) => ({ ...p, origin: [0, 0, 0] as [number, number, number] })), ...data.snapshot.datums.filter((d) => d.kind === 'plane').map((d) => ({ id: d.id, name: d.name, origin: d.origin as [number, number, number], normal: d.direction as [number, number, number] }))];
  const plane = planes.find((p) => p.id === mirror) ?? planes[0]!;
  const kept = strokesOf(values, []);
  // What is being drawn is kept first: nothing that was clicked is lost.
  const takeUp = (kind: StrokeKind, k: number) => {
    for (const one of KINDS.map((o) => o.kind))
      set(
        one,
        strokes[one].filter((_, j) => one !== kind || j !== k),
      );
    set('strokeAs', kind);
    store.setState({ picks: (kept[kind][k] ?? []).map((at) => hit('', at)) });
  };
  const key = JSON.stringify(strokes);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says what is drawn
  useEffect(() => {
    viewport.current?.showStrokes(KINDS.flatMap(({ kind }) => strokes[kind].map((places) => ({ places, isEdge: kind === 'edges' }))));
  }, [viewport, key]);
  useEffect(() => () => viewport.current?.showStrokes([]), [viewport]);
  return (
    <div className="grid grid-cols-1 gap-1.5">
      <div className="flex items-center justify-between gap-2">
        <span>Sides shall</span>
        <Choice isInline label="What a stroke is for" options={KINDS.map(({ kind, label, title }) => ({ value: kind, label, title }))} value={kindOf(values)} onChoose={(kind) => set('strokeAs', kind)} />
      </div>
      <p className="opacity-85">{picks.length === 0 ? 'Click along a line on the part to draw a stroke.' : `${picks.length} ${picks.length === 1 ? 'place' : 'places'}; Backspace takes the last one back.`}</p>
      {picks.length > 0 ? (
        <button
          type="button"
          className="btn btn-sm border-base-content/40 font-normal"
          disabled={!isDrawn}
          title={isDrawn ? 'Keeps it, and the next click begins another' : 'A stroke needs two places'}
          onClick={() => {
            set(kindOf(values), strokes[kindOf(values)]);
            commands.clearGesture();
          }}
        >
          Keep this stroke
        </button>
      ) : null}
      {KINDS.flatMap(({ kind, name }) =>
        kept[kind].map((stroke, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a stroke is its number
          <div key={`${kind} ${k}`} className="flex items-center gap-1">
            <span className="flex-1 truncate">
              {name} {k + 1}, {lengthOf(stroke).toFixed(1)} mm
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Change ${name.toLowerCase()} ${k + 1}`}
              disabled={picks.length === 1}
              title={picks.length === 1 ? 'Click where the stroke that is drawn goes on, or press Backspace, first' : 'Takes it up again: drag its places, click more, press Backspace'}
              onClick={() => takeUp(kind, k)}
            >
              <Pencil size={13} aria-hidden />
            </button>
            <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Mirror ${name.toLowerCase()} ${k + 1}`} title={`Adds the same stroke on the other side of ${plane.name}`} onClick={() => set(kind, [...kept[kind], mirrored(stroke, plane)])}>
              <FlipHorizontal2 size={13} aria-hidden />
            </button>
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Take ${name.toLowerCase()} ${k + 1} out`}
              onClick={() =>
                set(
                  kind,
                  kept[kind].filter((_, j) => j !== k),
                )
              }
            >
              <X size={13} aria-hidden />
            </button>
          </div>
        )),
      )}
      {kept.flow.length + kept.edges.length > 0 ? (
        <label className="flex items-center gap-2">
          <span className="flex-1">Mirror strokes in</span>
          <select className="select select-sm w-40" value={plane.id} onChange={(e) => setMirror(e.target.value)}>
            {planes.map((p) => (
              <option key={p.id} value={p.id}>
                {p.name}
              </option>
            ))}
          </select>
        </label>
      ) : null}
    </div>
  );
}
