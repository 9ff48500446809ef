import { Brush, Expand, Lasso, Pentagon, Puzzle, Shrink, Square, SquareDashed, Waypoints } from 'lucide-react';
import { type ReactNode, useMemo, useState } from 'react';
import { isDrawn, type SelectTool } from '../../state/view/store';
import { Choice } from '../../ui/Choice';
import { count } from '../../ui/format';
import { combine, type Marks, type SelectMode, toSelection } from '../../viewport/marks';
import { confidenceOf, inverseOf, lessSureThan, onSide, ringOf, type Seen, seenByFew } from '../../viewport/selections';
import { useView, useWorkspace } from '../../state/context';

const TOOLS: { tool: SelectTool; label: string; icon: ReactNode; how: string }[] = [
  { tool: 'rectangle', label: 'Rectangle', icon: <Square size={14} aria-hidden />, how: 'Drag a rectangle in the view. Right drag turns.' },
  { tool: 'polygon', label: 'Polygon', icon: <Pentagon size={14} aria-hidden />, how: 'Click corner after corner; Enter closes, Backspace takes one back. Right drag turns.' },
  { tool: 'freehand', label: 'Freehand', icon: <Lasso size={14} aria-hidden />, how: 'Draw around what is meant. Right drag turns.' },
  { tool: 'brush', label: 'Brush', icon: <Brush size={14} aria-hidden />, how: 'Paint over what is meant. Right drag turns.' },
  { tool: 'spread', label: 'Spread', icon: <Waypoints size={14} aria-hidden />, how: 'Click a smooth area: it spreads until the surface bends.' },
  { tool: 'piece', label: 'Piece', icon: <Puzzle size={14} aria-hidden />, how: 'Click a piece: all that hangs together with it.' },
];

const MODES: { mode: SelectMode; label: string }[] = [
  { mode: 'replace', label: 'Replace' },
  { mode: 'add', label: 'Add' },
  { mode: 'subtract', label: 'Take off' },
];

function Size({ label, value, unit, min, max, onChange }: { label: string; value: number | null; unit: ReactNode; min: number; max: number; onChange: (value: number | null) => void }) {
  return (
    <label className="flex items-center gap-1">
      <span className="flex-1">{label}</span>
      <input className="input input-sm w-18 text-right" type="number" min={min} max={max} value={value ?? ''} placeholder="any" aria-label={label} onChange={(e) => onChange(e.target.value === '' ? null : Math.max(min, Math.min(max, Number(e.target.value))))} />
      <span className="w-12 opacity-80">{unit}</span>
    </label>
  );
}

/** How things are selected in the view: tools, what a gesture does to the selection, how deep it goes; and what is selected, by item. */
export function SelectionPicks() {
  const { data, store, viewport, selected } = useWorkspace();
  const view = useView((s) => s);
  const { selectTool, selectMode, selection, behind, through, brush, spread } = view;
  const nameOf = (id: string) => [...data.snapshot.passes, ...data.snapshot.bodies].find((i) => i.id === id)?.name ?? '';
  const isMesh = (id: string) => data.snapshot.bodies.some((b) => b.id === id && b.kind === 'mesh');
  const planes = data.snapshot.datums.filter((d) => d.kind === 'plane');
  const [unsure, setUnsure] = useState('');
  const hidden = view.hidden;
  // Looked for when the tool opens and when what is visible changes, not at every stroke.
  // biome-ignore lint/correctness/useExhaustiveDependencies: what is visible decides
  const sure = useMemo(() => viewport.current && confidenceOf(viewport.current), [hidden, data.snapshot.passes]);
  const hasSupport = data.snapshot.bodies.some((b) => b.figures && b.kind === 'mesh');
  const show = (made: (view: Seen) => Marks) => {
    if (!viewport.current) return;
    const marks = made(viewport.current);
    selected.current = marks;
    viewport.current.showMarks(marks);
    store.setState({ selection: toSelection(marks), behind: 0 });
  };
  const take = (made: (view: Seen) => Marks) => show((view) => combine(selected.current, made(view), selectMode));
  if (view.standIn > 1) {
    return <p className="text-warning">So many points are shown by lighter stand-ins, on which nothing can be selected exactly. Hide passes in the tray until all that is left is loaded whole.</p>;
  }
  return (
    <div className="grid gap-2">
      <div className="grid grid-cols-3 gap-1" role="radiogroup" aria-label="Select with">
        {TOOLS.map(({ tool, label, icon, how }) => (
          <button key={tool} type="button" role="radio" aria-checked={selectTool === tool} title={how} className={`btn btn-sm justify-start gap-1 px-1.5 font-normal [&>svg]:shrink-0 ${selectTool === tool ? 'btn-warning' : ''}`} onClick={() => store.setState({ selectTool: selectTool === tool ? null : tool })}>
            {icon} {label}
          </button>
        ))}
      </div>
      {selectTool ? <p className="opacity-85">{TOOLS.find((t) => t.tool === selectTool)?.how}</p> : null}
      {selectTool === 'brush' ? (
        <Size
          label="Width of the brush"
          value={brush.size}
          min={1}
          max={400}
          unit={
            <select className="select select-xs w-12 px-1" aria-label="Unit of the brush" value={brush.unit} onChange={(e) => store.setState({ brush: { ...brush, unit: e.target.value === 'mm' ? 'mm' : 'px' } })}>
              <option>px</option>
              <option>mm</option>
            </select>
          }
          onChange={(size) => store.setState({ brush: { ...brush, size: size ?? 24 } })}
        />
      ) : null}
      {selectTool === 'spread' ? (
        <>
          <Size label="Bends up to" value={spread.angle} min={1} max={90} unit="°" onChange={(angle) => store.setState({ spread: { ...spread, angle: angle ?? 12 } })} />
          <Size label="Within" value={spread.withinMm} min={0} max={100000} unit="mm" onChange={(withinMm) => store.setState({ spread: { ...spread, withinMm } })} />
        </>
      ) : null}
      {selectTool && isDrawn(selectTool) ? (
        <Choice
          label="Depth of the outline"
          options={[
            { value: false, label: 'Front only' },
            { value: true, label: 'Through' },
          ]}
          value={through}
          onChoose={(deep) => store.setState({ through: deep })}
        />
      ) : null}
      <Choice label="What a gesture does" options={MODES.map((m) => ({ value: m.mode, label: m.label }))} value={selectMode} onChoose={(mode) => store.setState({ selectMode: mode })} />
      <div className="flex flex-wrap gap-1">
        {(['grow', 'shrink'] as const).map((change) => (
          <button key={change} type="button" className="btn btn-xs font-normal" disabled={selection.length === 0} title={selection.length === 0 ? 'Nothing is selected yet' : change === 'grow' ? 'One ring more' : 'One ring less'} onClick={() => show((view) => ringOf(view, selected.current, change))}>
            {change === 'grow' ? <Expand size={12} aria-hidden /> : <Shrink size={12} aria-hidden />} {change === 'grow' ? 'Grow' : 'Shrink'}
          </button>
        ))}
        <button type="button" className="btn btn-xs font-normal" title="Everything visible that is not selected" onClick={() => show((view) => inverseOf(view, selected.current))}>
          <SquareDashed size={12} aria-hidden /> Invert
        </button>
        {planes.map((plane) =>
          ([1, -1] as const).map((side) => (
            <button key={plane.id + side} type="button" className="btn btn-xs font-normal" title="All visible that lies on this side of the plane" onClick={() => take((view) => onSide(view, plane, side))}>
              {side === 1 ? 'Outside of' : 'Inside of'} {plane.name}
            </button>
          )),
        )}
        {hasSupport ? (
          <button type="button" className="btn btn-xs font-normal" title="Surface that no more than one pass saw, filled surface included" onClick={() => take((view) => seenByFew(view, 1))}>
            Seen by 1 pass or none
          </button>
        ) : null}
      </div>
      {sure ? (
        <div className="flex items-center gap-1">
          <span className="flex-1" title={`The scanner's own scale: ${sure[0].toPrecision(3)} to ${sure[1].toPrecision(3)} in what is visible`}>
            Less sure than
          </span>
          <input className="input input-sm w-18 text-right" inputMode="decimal" aria-label="Less sure than" value={unsure} placeholder={((sure[0] + sure[1]) / 2).toPrecision(2)} onChange={(e) => setUnsure(e.target.value)} />
          <button type="button" className="btn btn-xs font-normal" onClick={() => take((view) => lessSureThan(view, Number(unsure) || (sure[0] + sure[1]) / 2))}>
            Select
          </button>
        </div>
      ) : null}
      {selection.map((s) => (
        <p key={s.target} className="flex">
          <span className="flex-1 truncate">{nameOf(s.target)}</span> {count(s.count)} {isMesh(s.target) ? (s.count === 1 ? 'face' : 'faces') : s.count === 1 ? 'point' : 'points'}
        </p>
      ))}
      {behind > 0 && selectTool && isDrawn(selectTool) ? <p className={through ? 'text-warning' : 'opacity-85'}>{through ? `${count(behind)} of the last outline lie behind others and are drawn as a ghost.` : `${count(behind)} behind others were left alone.`}</p> : null}
    </div>
  );
}
