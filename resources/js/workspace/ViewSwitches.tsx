import { COLOURS } from '../state/view/store';
import { useView, useWorkspace } from './context';

/** How the view is shown: rays and colours. */
export function ViewSwitches() {
  const { store } = useWorkspace();
  const parallel = useView((s) => s.parallel);
  const colours = useView((s) => s.colours);
  return (
    <div className="grid gap-1 rounded-box bg-base-100/85 p-1">
      <button type="button" className="btn btn-ghost btn-xs justify-start font-normal" aria-pressed={parallel} title="Perspective shows depth, parallel rays show true proportions (P)" onClick={() => store.setState({ parallel: !parallel })}>
        {parallel ? 'Parallel' : 'Perspective'}
      </button>
      <select className="select select-xs w-40" aria-label="Colours of bodies" title="Colours of bodies (C)" value={colours} onChange={(e) => store.setState({ colours: COLOURS.find((c) => c.mode === e.target.value)?.mode ?? 'evidence' })}>
        {COLOURS.map((c) => (
          <option key={c.mode} value={c.mode}>
            {c.label}
          </option>
        ))}
      </select>
    </div>
  );
}
