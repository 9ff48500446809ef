import { useEffect } from 'react';
import type { ShadeMap } from '../api/types';
import { useView, useWorkspace } from './context';

/** Which map of a report colours the passes; none gives them their own colours back. */
export function MapChoice({ maps }: { maps: ShadeMap[] }) {
  const { store } = useWorkspace();
  const chosen = useView((s) => s.map);
  useEffect(() => () => store.setState({ map: null }), [store]);
  const names = [...new Set(maps.map((m) => m.label))];
  if (names.length === 0) return null;
  return (
    <div className="join w-full" role="radiogroup" aria-label="Colour passes by">
      {[null, ...names].map((name) => (
        <button key={name ?? 'pass'} type="button" role="radio" aria-checked={chosen === name} className={`btn btn-xs join-item flex-1 font-normal ${chosen === name ? 'border-base-content/60 bg-neutral font-semibold' : ''}`} onClick={() => store.setState({ map: name })}>
          {name ?? 'Pass'}
        </button>
      ))}
    </div>
  );
}
