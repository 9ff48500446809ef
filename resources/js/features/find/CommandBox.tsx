import { useState } from 'react';
import { useWorkspace } from '../../state/context';
import { moduleOf } from '../../operations';
import { hasForm, STAGES } from '../../state/stages';
import { Dialog } from '../../ui/Dialog';
import { type Entry, entries, found } from './entries';

/** Finds any operation, stage, body, pass or datum by name (Ctrl+K). */
export function CommandBox({ onClose }: { onClose: () => void }) {
  const { operations, data, commands } = useWorkspace();
  const [typed, setTyped] = useState('');
  const [at, setAt] = useState(0);
  const hits = found(
    entries(
      operations.filter((o) => hasForm(o) && !moduleOf(o.name).within),
      STAGES,
      data,
    ),
    typed,
  ).slice(0, 9);
  const choose = (entry: Entry | undefined) => {
    if (!entry) return;
    onClose();
    if ('operation' in entry.go) commands.openOperation(entry.go.operation, entry.go.stage);
    else if ('stage' in entry.go) commands.goTo(entry.go.stage);
    else {
      const { passes, bodies, datums } = data.snapshot;
      commands.showOnly(
        [entry.go.only],
        [...passes, ...bodies, ...datums].map((i) => i.id),
      );
    }
  };
  return (
    <Dialog title="Find" onClose={onClose}>
      <input
        className="input w-full"
        role="combobox"
        aria-expanded
        aria-controls="found"
        aria-activedescendant={hits[at] ? `found-${at}` : undefined}
        aria-label="Operation, stage, body, pass or datum"
        placeholder="Operation, stage, body, pass or datum"
        // biome-ignore lint/a11y/noAutofocus: the box opens to be typed into
        autoFocus
        value={typed}
        onChange={(e) => {
          setTyped(e.target.value);
          setAt(0);
        }}
        onKeyDown={(e) => {
          if (e.key === 'ArrowDown' || e.key === 'ArrowUp') {
            e.preventDefault();
            setAt(Math.max(0, Math.min(hits.length - 1, at + (e.key === 'ArrowDown' ? 1 : -1))));
          } else if (e.key === 'Enter') choose(hits[at]);
        }}
      />
      <div id="found" role="listbox" aria-label="Found" className="mt-2">
        {hits.map((entry, k) => (
          // biome-ignore lint/a11y/useKeyWithClickEvents: the arrow keys and Enter of the field choose
          // biome-ignore lint/a11y/useFocusableInteractive: the field keeps the focus
          <div key={entry.key} id={`found-${k}`} role="option" aria-selected={k === at} className={`flex cursor-pointer rounded-field px-3 py-1.5 ${k === at ? 'bg-base-300' : ''}`} onClick={() => choose(entry)} onPointerEnter={() => setAt(k)}>
            <span className="flex-1 truncate">{entry.label}</span>
            <span className="opacity-75">{entry.kind}</span>
          </div>
        ))}
      </div>
      {hits.length === 0 ? <p className="px-3 py-2 opacity-85">Nothing here has that name.</p> : null}
    </Dialog>
  );
}
