import { useRef, useState } from 'react';

/** Widths of the panels beside the view, rem. */
export interface Panels {
  left: number;
  right: number;
}

const USUAL: Panels = { left: 14.5, right: 18.5 };
const LEAST: Panels = { left: 11, right: 16 };
const MOST = 30;
const STEP = 1;
const KEPT = 'emberstone.panels';

const within = (side: keyof Panels, rem: number): number => Math.max(LEAST[side], Math.min(MOST, Math.round(4 * rem) / 4));

function kept(): Panels {
  try {
    const { left, right } = JSON.parse(localStorage.getItem(KEPT) ?? '{}') as Partial<Panels>;
    return { left: within('left', Number(left) || USUAL.left), right: within('right', Number(right) || USUAL.right) };
  } catch {
    return USUAL;
  }
}

/** The widths that a person gave the panels, remembered in their browser. */
export function usePanels(): [Panels, (side: keyof Panels, rem: number) => void] {
  const [panels, setPanels] = useState(kept);
  return [
    panels,
    (side, rem) =>
      setPanels((old) => {
        const now = { ...old, [side]: within(side, rem) };
        localStorage.setItem(KEPT, JSON.stringify(now));
        return now;
      }),
  ];
}

/** The edge between a panel and the view: dragged, moved by arrows, set back by a double click. */
export function PanelEdge({ side, label, rem, onChange }: { side: keyof Panels; label: string; rem: number; onChange: (side: keyof Panels, rem: number) => void }) {
  const from = useRef<{ x: number; rem: number } | null>(null);
  const outwards = side === 'left' ? 1 : -1;
  const perRem = () => Number.parseFloat(getComputedStyle(document.documentElement).fontSize);
  return (
    // biome-ignore lint/a11y/useSemanticElements: a rule cannot be dragged
    <div
      role="separator"
      aria-orientation="vertical"
      aria-label={label}
      aria-valuenow={rem}
      aria-valuemin={LEAST[side]}
      aria-valuemax={MOST}
      tabIndex={0}
      title="Drag, or use the arrow keys, to change the width; double click sets it back"
      className={`absolute inset-y-0 z-20 w-1.5 cursor-col-resize hover:bg-primary/60 focus-visible:bg-primary ${side === 'left' ? '-right-1' : '-left-1'}`}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        from.current = { x: e.clientX, rem };
      }}
      onPointerMove={(e) => {
        if (from.current) onChange(side, from.current.rem + (outwards * (e.clientX - from.current.x)) / perRem());
      }}
      onPointerUp={() => {
        from.current = null;
      }}
      onDoubleClick={() => onChange(side, USUAL[side])}
      onKeyDown={(e) => {
        const by = e.key === 'ArrowRight' ? STEP : e.key === 'ArrowLeft' ? -STEP : 0;
        if (by === 0) return;
        e.preventDefault();
        onChange(side, rem + outwards * by);
      }}
    />
  );
}
