import { useEffect, useId, useRef, useState } from 'react';
import { type NumberKind, readTyped, spelled } from './typed';

interface TypedNumberProps extends NumberKind {
  label?: string;
  value: number | undefined;
  /** undefined where the field was emptied */
  onChange: (value: number | undefined) => void;
  least?: number;
  most?: number;
  required?: boolean;
  placeholder?: string;
  className?: string;
}

function readAs(text: string, kind: NumberKind): number | undefined {
  const typed = readTyped(text, kind);
  return typed && 'value' in typed ? typed.value : undefined;
}

/** A number in any way that it may be written, kept as it is typed; what it is taken for, or why it is not, stands under it. */
export function TypedNumber({ label, value, onChange, least, most, required, placeholder, className = 'input', ...kind }: TypedNumberProps) {
  const [text, setText] = useState(value === undefined ? '' : String(value));
  const note = useId();
  const typed = readTyped(text, kind);
  const read = readAs(text, kind);
  const input = useRef<HTMLInputElement>(null);
  // Another value from outside is shown; the one that was typed stays as it was typed.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only when the value changes
  useEffect(() => setText((old) => (readAs(old, kind) === value ? old : value === undefined ? '' : String(value))), [value]);
  const why = typed && 'why' in typed ? typed.why : read === undefined ? null : least !== undefined && read < least ? `At least ${spelled(least)}.` : most !== undefined && read > most ? `At most ${spelled(most)}.` : null;
  const told = typed && 'value' in typed && !typed.isPlain ? `= ${spelled(typed.value)}` : null;
  // A form with it is not sent while it is wrong.
  useEffect(() => input.current?.setCustomValidity(why ?? ''), [why]);
  return (
    <>
      <input
        ref={input}
        required={required}
        className={`${className} ${why ? 'input-error' : ''}`}
        value={text}
        inputMode="decimal"
        aria-label={label}
        aria-invalid={why !== null}
        aria-describedby={why || told ? note : undefined}
        placeholder={placeholder}
        onChange={(e) => {
          setText(e.target.value);
          const now = readTyped(e.target.value, kind);
          if (now === null) onChange(undefined);
          else if ('value' in now && (least === undefined || now.value >= least) && (most === undefined || now.value <= most)) onChange(now.value);
        }}
      />
      {why || told ? (
        <span id={note} role="status" className={`order-last col-span-full w-full text-right text-sm leading-tight ${why ? 'text-warning' : 'opacity-85'}`}>
          {why ?? told}
        </span>
      ) : null}
    </>
  );
}
