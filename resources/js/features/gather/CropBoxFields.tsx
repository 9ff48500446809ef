import { EyeOff, Maximize } from 'lucide-react';
import { type KeyboardEvent, useEffect, useState } from 'react';
import { type Box, LEAST_MM, type Vec } from '../../tools/cropBox/box';
import { count, parseLength } from '../../ui/format';
import { useView, useWorkspace } from '../../state/context';

const AXES = ['X', 'Y', 'Z'];

function Bound({ label, value, onChange }: { label: string; value: number; onChange: (value: number) => void }) {
  const shown = String(+value.toFixed(3));
  const [text, setText] = useState(shown);
  useEffect(() => setText(shown), [shown]);
  const number = parseLength(text);
  const take = () => (number === null ? setText(shown) : onChange(number));
  const enter = (e: KeyboardEvent) => {
    if (e.key !== 'Enter') return;
    // Enter takes the number; it does not send the form yet.
    e.preventDefault();
    take();
  };
  return <input className={`input input-sm w-full px-1 text-right ${number === null ? 'input-error' : ''}`} value={text} inputMode="decimal" aria-label={label} aria-invalid={number === null} onChange={(e) => setText(e.target.value)} onBlur={take} onKeyDown={enter} />;
}

/** The crop box in numbers: where each side lies and how the box is turned; hiding what is outside, and starting over. */
export function CropBoxFields() {
  const { store, viewport } = useWorkspace();
  const box = useView((s) => s.cropBox);
  const hidden = useView((s) => s.hiddenOutside);
  const aroundAll = () => store.setState({ cropBox: viewport.current?.boundsOf() ?? null });
  // biome-ignore lint/correctness/useExhaustiveDependencies: where there is no box, one lies around everything
  useEffect(() => {
    if (!box) aroundAll();
  }, [box]);
  if (!box) return null;
  const set = (change: Partial<Box>) => store.setState({ cropBox: { ...box, ...change } });
  const at = (v: Vec, k: number, value: number): Vec => v.map((old, j) => (j === k ? value : old)) as unknown as Vec;
  /** Moves one side along the box's own axis; the other stays. */
  const setSide = (k: number, upper: boolean, value: number) => {
    const [low, high] = [box.centre[k]! - box.size[k]! / 2, box.centre[k]! + box.size[k]! / 2];
    const [a, b] = upper ? [low, Math.max(low + LEAST_MM, value)] : [Math.min(high - LEAST_MM, value), high];
    set({ centre: at(box.centre, k, (a + b) / 2), size: at(box.size, k, b - a) });
  };
  const turned = box.turn.some((t) => Math.abs(t) > 1e-9);
  const many = Object.values(hidden?.counts ?? {}).reduce((a, b) => a + b, 0);
  return (
    <div className="grid gap-2">
      <p className="opacity-85">Drag ↔ to move a side, ↻ to turn, ✥ to shift; or type.</p>
      <table className="w-full" aria-label="Crop box">
        <thead>
          <tr className="text-xs opacity-80">
            <th>axis</th>
            <th>{turned ? 'middle' : 'from'}</th>
            <th>{turned ? 'size' : 'to'} mm</th>
            <th>turn °</th>
          </tr>
        </thead>
        <tbody>
          {AXES.map((axis, k) => (
            <tr key={axis}>
              <th className="pr-1">{axis}</th>
              <td>{turned ? <Bound label={`Middle ${axis}`} value={box.centre[k]!} onChange={(v) => set({ centre: at(box.centre, k, v) })} /> : <Bound label={`From ${axis}`} value={box.centre[k]! - box.size[k]! / 2} onChange={(v) => setSide(k, false, v)} />}</td>
              <td>{turned ? <Bound label={`Size ${axis}`} value={box.size[k]!} onChange={(v) => set({ size: at(box.size, k, Math.max(LEAST_MM, v)) })} /> : <Bound label={`To ${axis}`} value={box.centre[k]! + box.size[k]! / 2} onChange={(v) => setSide(k, true, v)} />}</td>
              <td>
                <Bound label={`Turn about ${axis}`} value={box.turn[k]!} onChange={(v) => set({ turn: at(box.turn, k, v) })} />
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="flex gap-1">
        <button type="button" className="btn btn-xs font-normal" onClick={aroundAll}>
          <Maximize size={12} aria-hidden /> Around everything
        </button>
        <button type="button" className="btn btn-xs font-normal" title="Hides what is outside in the view; nothing is deleted" onClick={() => store.setState({ hiddenOutside: { box, counts: viewport.current?.hideOutside(box) ?? {} } })}>
          <EyeOff size={12} aria-hidden /> Hide outside
        </button>
      </div>
      {hidden ? <p className="text-warning">{count(many)} outside are hidden; the tray shows them again.</p> : null}
    </div>
  );
}
