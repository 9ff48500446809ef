import { Dialog } from '../../ui/Dialog';
import { SHORTCUTS } from '../../ui/shortcuts';

export function ShortcutSheet({ onClose }: { onClose: () => void }) {
  return (
    <Dialog title="Keys and pointer" onClose={onClose}>
      {(['View', 'Picking', 'Project'] as const).map((group) => (
        <section key={group} className="mb-3">
          <h3 className="mb-1 text-xs font-semibold opacity-80">{group}</h3>
          <dl className="grid grid-cols-[13.5rem_1fr] gap-y-1">
            {SHORTCUTS.filter((s) => s.group === group).map((s) => (
              <div key={s.keys} className="contents">
                <dt>
                  <kbd className="kbd kbd-sm whitespace-nowrap">{s.keys}</kbd>
                </dt>
                <dd>{s.does}</dd>
              </div>
            ))}
          </dl>
        </section>
      ))}
      <button type="button" className="btn btn-sm" onClick={onClose}>
        Close
      </button>
    </Dialog>
  );
}
