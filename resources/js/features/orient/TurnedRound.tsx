import { useEffect } from 'react';
import { useView, useWorkspace } from '../../state/context';

/** The way a new datum faces or points, drawn as an arrow; T turns it round. */
export function TurnedRound({ value, onChange }: { value: boolean; onChange: (isTurned: boolean) => void }) {
  const { store } = useWorkspace();
  const preview = useView((s) => s.datumPreview);
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (e.key !== 't' || e.ctrlKey || e.metaKey || e.altKey || e.target instanceof HTMLInputElement || e.target instanceof HTMLSelectElement) return;
      onChange(!value);
    };
    window.addEventListener('keydown', key);
    return () => window.removeEventListener('keydown', key);
  }, [value, onChange]);
  // The arrow in the view is that of the datum as it will be.
  useEffect(() => {
    if (!preview || (preview.isTurned ?? false) === value) return;
    const { direction } = preview.datum;
    store.setState({ datumPreview: { ...preview, isTurned: value, datum: { ...preview.datum, direction: [-direction[0], -direction[1], -direction[2]] } } });
  }, [preview, value, store]);
  return (
    <label className="flex items-center gap-2">
      <input type="checkbox" className="checkbox checkbox-sm" checked={value} onChange={(e) => onChange(e.target.checked)} /> The other way round (T)
    </label>
  );
}
