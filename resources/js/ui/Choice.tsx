import { type KeyboardEvent, useRef } from 'react';

/** More words than this do not fit beside each other in the panel. */
const IN_A_ROW = 4;

const STEPS: Record<string, number> = { ArrowRight: 1, ArrowDown: 1, ArrowLeft: -1, ArrowUp: -1 };

interface Props<T> {
  label: string;
  options: readonly { value: T; label: string; title?: string }[];
  value: T;
  onChoose: (value: T) => void;
  /** no wider than its words, as beside a label */
  isInline?: boolean;
}

/** A few words side by side, one of which holds: one stop of the Tab key, within which arrows choose. */
export function Choice<T>({ label, options, value, onChoose, isInline = false }: Props<T>) {
  const group = useRef<HTMLDivElement>(null);
  const isRow = isInline || options.length <= IN_A_ROW;
  const held = options.findIndex((o) => o.value === value);
  const onKeyDown = (e: KeyboardEvent) => {
    const step = STEPS[e.key];
    if (step === undefined) return;
    e.preventDefault();
    const next = (Math.max(0, held) + step + options.length) % options.length;
    const option = options[next];
    if (!option) return;
    onChoose(option.value);
    group.current?.querySelectorAll<HTMLElement>('[role=radio]')[next]?.focus();
  };
  return (
    <div ref={group} className={isInline ? 'join' : isRow ? 'join w-full' : 'grid w-full grid-cols-3 gap-1'} role="radiogroup" aria-label={label} onKeyDown={onKeyDown}>
      {options.map((o, k) => (
        <button
          key={o.label}
          type="button"
          role="radio"
          aria-checked={k === held}
          tabIndex={k === Math.max(0, held) ? 0 : -1}
          className={`btn btn-sm font-normal ${isInline ? 'join-item px-2' : isRow ? 'join-item flex-1 px-1' : 'px-1'} ${k === held ? 'border-base-content/60 bg-neutral font-semibold' : ''}`}
          onClick={() => onChoose(o.value)}
        >
          {o.label}
        </button>
      ))}
    </div>
  );
}
