import { Plus } from 'lucide-react';
import { useState } from 'react';
import { useWorkspace } from '../../state/context';
import { readPlace } from './readPlace';

/** A place by its numbers, for whoever knows them or works without a pointer: added to what was picked. */
export function TypedPick() {
  const { store, viewport } = useWorkspace();
  const [text, setText] = useState('');
  const typed = readPlace(text);
  const why = typed && 'why' in typed ? typed.why : null;
  const add = () => {
    if (!typed || 'why' in typed) return;
    const at = viewport.current?.nearestTo(typed.place);
    store.setState((s) => ({ picks: [...s.picks, { itemId: at?.itemId ?? '', kind: at?.kind ?? 'body', index: at?.index ?? 0, pointMm: typed.place }] }));
    setText('');
  };
  return (
    <div className="flex flex-wrap items-center gap-1">
      <input
        className={`input input-sm min-w-0 flex-1 ${why ? 'input-error' : ''}`}
        value={text}
        placeholder="x, y, z in mm"
        aria-label="Place by its numbers"
        aria-invalid={why !== null}
        title="Adds a place by its numbers; M picks what is in the middle of the view"
        onChange={(e) => setText(e.target.value)}
        onKeyDown={(e) => {
          if (e.key !== 'Enter') return;
          e.preventDefault();
          e.stopPropagation();
          add();
        }}
      />
      <button type="button" className="btn btn-sm font-normal" disabled={!typed || why !== null} title={typed ? undefined : 'Type three numbers first'} onClick={add}>
        <Plus size={13} aria-hidden /> Pick
      </button>
      {why ? (
        <span role="status" className="w-full text-warning">
          {why}
        </span>
      ) : null}
    </div>
  );
}
