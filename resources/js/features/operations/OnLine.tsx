import { useView, useWorkspace } from '../../state/context';
import type { WorksOn } from './worksOn';

/** What the step will work on, in words, with a list to change it; the marks are those of the tray. */
export function OnLine({ on: { words, suits, ids, isUnseen } }: { on: WorksOn }) {
  const { store } = useWorkspace();
  const chosen = useView((s) => s.chosen);
  if (suits.length === 0) return null;
  if (isUnseen)
    return (
      <p data-on className="flex items-center gap-2">
        <span className="flex-1">
          <span className="opacity-80">On </span>
          {words}, out of sight
        </span>
        <button type="button" className="btn btn-xs font-normal" onClick={() => store.setState({ chosen: suits.map((s) => s.id) })}>
          Work on {suits.length === 1 ? 'it' : 'them'} all the same
        </button>
      </p>
    );
  if (suits.length === 1)
    return (
      <p data-on className="truncate">
        <span className="opacity-80">On </span>
        {words}
      </p>
    );
  const others = chosen.filter((id) => !suits.some((s) => s.id === id));
  const choose = (some: readonly string[]) => store.setState({ chosen: [...others, ...some] });
  return (
    <details data-on>
      <summary className="cursor-pointer">
        <span className="opacity-80">On </span>
        {words}
        <span className="link ember-text float-right no-underline hover:underline">change</span>
      </summary>
      <fieldset className="grid gap-0.5 pt-1" aria-label="Works on">
        <div className="grid max-h-40 gap-0.5 overflow-y-auto">
          {suits.map((item) => (
            <label key={item.id} className="flex items-center gap-1.5">
              <input
                type="checkbox"
                className="checkbox checkbox-xs"
                checked={ids.includes(item.id)}
                disabled={ids.length === 1 && ids[0] === item.id}
                title={ids.length === 1 && ids[0] === item.id ? 'One at least' : undefined}
                onChange={(e) => choose(e.target.checked ? [...ids, item.id] : ids.filter((id) => id !== item.id))}
              />
              <span className="truncate" title={item.name}>
                {item.name}
              </span>
            </label>
          ))}
        </div>
        <button type="button" className="btn btn-xs justify-self-start font-normal" disabled={ids.length === suits.length} title={ids.length === suits.length ? 'All of them are chosen' : undefined} onClick={() => choose(suits.map((s) => s.id))}>
          All {suits.length}
        </button>
      </fieldset>
    </details>
  );
}
