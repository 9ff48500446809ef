import { X } from 'lucide-react';
import { useEffect } from 'react';
import type { FieldsProps } from '../../operations/module';
import { placesOf } from '../../operations/places';
import { Choice } from '../../ui/Choice';
import { useView, useWorkspace } from '../../state/context';
import { kindOf, lengthOf, type StrokeKind, strokesOf } from './strokes';

const KINDS: { kind: StrokeKind; label: string; name: string; title: string }[] = [
  { kind: 'flow', label: 'run along it', name: 'Flow stroke', title: 'Sides of cells near the stroke run in its direction' },
  { kind: 'edges', label: 'lie on it', name: 'Edge stroke', title: 'The stroke becomes a row of sides' },
];

/** Strokes on the part that guide cells: clicked place by place, kept one by one, listed, and drawn in the view. */
export function StrokeFields({ values, set }: Pick<FieldsProps, 'values' | 'set'>) {
  const { viewport, commands } = useWorkspace();
  const picks = useView((s) => s.picks);
  const strokes = strokesOf(values, placesOf(picks));
  const isDrawn = picks.length >= 2;
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
        strokesOf(values, [])[kind].map((stroke, k) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a stroke is its number
          <div key={`${kind} ${k}`} className="flex items-center gap-1">
            <span className="flex-1 truncate">
              {name} {k + 1}, {lengthOf(stroke).toFixed(1)} mm
            </span>
            <button
              type="button"
              className="btn btn-ghost btn-xs btn-square"
              aria-label={`Take ${name.toLowerCase()} ${k + 1} out`}
              onClick={() =>
                set(
                  kind,
                  strokesOf(values, [])[kind].filter((_, j) => j !== k),
                )
              }
            >
              <X size={13} aria-hidden />
            </button>
          </div>
        )),
      )}
    </div>
  );
}
