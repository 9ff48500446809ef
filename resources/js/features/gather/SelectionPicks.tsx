import { Lasso } from 'lucide-react';
import { count } from '../../ui/format';
import { useView, useWorkspace } from '../../workspace/context';

/** Draw an outline; front only or through is a visible choice, and what will go is counted first. */
export function SelectionPicks() {
  const { data, store } = useWorkspace();
  const { drawing, through, selection } = { drawing: useView((s) => s.drawing), through: useView((s) => s.through), selection: useView((s) => s.selection) };
  const nameOf = (id: string) => [...data.snapshot.passes, ...data.snapshot.bodies].find((i) => i.id === id)?.name ?? '';
  return (
    <div className="grid gap-2">
      <div className="join w-full" role="radiogroup" aria-label="Depth of the outline">
        {[false, true].map((deep) => (
          <button key={String(deep)} type="button" role="radio" aria-checked={through === deep} className={`btn btn-sm join-item flex-1 font-normal ${through === deep ? 'border-base-content/60 bg-neutral font-semibold' : ''}`} onClick={() => store.setState({ through: deep, selection: [] })}>
            {deep ? 'Through' : 'Front only'}
          </button>
        ))}
      </div>
      <button type="button" className={`btn btn-sm ${drawing ? 'btn-warning' : 'border-base-content/40'}`} aria-pressed={drawing} onClick={() => store.setState({ drawing: !drawing, selection: [] })}>
        <Lasso size={14} aria-hidden /> {drawing ? 'Draw in the view (right drag turns)' : 'Draw an outline'}
      </button>
      {selection.map((s) => (
        <p key={s.target} className="flex">
          <span className="flex-1 truncate">{nameOf(s.target)}</span> {count(s.count)} selected
        </p>
      ))}
    </div>
  );
}
