import { Crosshair } from 'lucide-react';
import type { ReactNode } from 'react';
import { useWorkspace } from '../state/context';

/** A line of a list that flies to its place when clicked. */
export function PlaceButton({ centre, acrossMm, title, pressed, onGo, children }: { centre: [number, number, number]; acrossMm: number; title?: string; pressed?: boolean; onGo?: () => void; children: ReactNode }) {
  const { viewport } = useWorkspace();
  const go = () => {
    viewport.current?.flyTo(centre, Math.max(10, acrossMm));
    onGo?.();
  };
  return (
    <button type="button" className={`flex min-w-0 flex-1 items-center gap-1 rounded-field px-1 text-left hover:bg-base-300 ${pressed ? 'bg-base-300' : ''}`} aria-pressed={pressed} title={title ?? `Go there: ${centre.map((v) => v.toFixed(0)).join(', ')} mm`} onClick={go}>
      <Crosshair size={12} className="shrink-0" aria-hidden />
      {children}
    </button>
  );
}
