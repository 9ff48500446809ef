import { COLOURS } from '../state/view/store';
import { useView, useWorkspace } from '../state/context';

/** How the view is shown: rays and colours. */
export function ViewSwitches() {
  const { store, commands, data } = useWorkspace();
  const hidden = useView((s) => s.hidden);
  const sideBySide = useView((s) => s.sideBySide);
  const shown = data.snapshot.bodies.filter((b) => !hidden[b.id]).length;
  const parallel = useView((s) => s.parallel);
  const colours = useView((s) => s.colours);
  return (
    <div className="grid gap-1 rounded-box bg-base-100/85 p-1">
      <button type="button" className="btn btn-ghost btn-xs justify-start font-normal" aria-pressed={parallel} title="Perspective shows depth, parallel rays show true proportions (P)" onClick={() => store.setState({ parallel: !parallel })}>
        {parallel ? 'Parallel' : 'Perspective'}
      </button>
      {shown > 1 ? (
        <button
          type="button"
          className={`btn btn-ghost btn-xs justify-start font-normal ${sideBySide ? 'border-base-content/60 bg-neutral' : ''}`}
          aria-pressed={sideBySide}
          title="Shows the visible bodies in a row, to be compared"
          onClick={() => {
            if (!sideBySide) commands.openOperation(null);
            store.setState({ sideBySide: !sideBySide });
          }}
        >
          Side by side
        </button>
      ) : null}
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
