import { type KeyboardEvent, useEffect, useRef, useState } from 'react';
import type { ParameterInfo } from '../../api/types';
import { FAMILIES } from '../mend/faults';
import { unitSign } from './inWords';
import { hasSlider, isBadNumber, readNumber, shownFactor } from './numbers';

interface FieldProps {
  parameter: ParameterInfo;
  value: unknown;
  onChange: (value: unknown) => void;
  names?: readonly { id: string; name: string }[];
  /** stands in an empty field of words: what is taken then */
  placeholder?: string;
}

/** Milliseconds that a number must stand still before it is taken. */
const SETTLED = { typed: 400, slid: 120 } as const;

function NumberField({ parameter, value, onChange, placeholder }: FieldProps) {
  const factor = shownFactor(parameter);
  const shown = typeof value === 'number' ? String(+(value * factor).toPrecision(6)) : '';
  const [text, setText] = useState(shown);
  const entered = useRef(shown);
  const timer = useRef<number | undefined>(undefined);
  // What is being typed stays as it is typed: "1." is not made "1" under the fingers.
  useEffect(() => setText((old) => (shown !== '' && readNumber(parameter, old) === Number(shown) ? old : shown)), [parameter, shown]);
  useEffect(() => () => window.clearTimeout(timer.current), []);
  const isBad = isBadNumber(parameter, text);
  const take = (of: string) => {
    window.clearTimeout(timer.current);
    const read = readNumber(parameter, of);
    const taken = read === null ? undefined : read / factor;
    if (!isBadNumber(parameter, of) && taken !== value) onChange(taken);
  };
  const settle = (of: string, wait: number) => {
    setText(of);
    window.clearTimeout(timer.current);
    // An emptied field is being typed in: it counts as empty when it is left.
    if (of.trim() !== '') timer.current = window.setTimeout(() => take(of), wait);
  };
  const enter = (e: KeyboardEvent) => {
    if (e.key !== 'Enter' || text === entered.current) return;
    // The first Enter takes the number, so that its preview can be looked at; a second one applies.
    e.preventDefault();
    entered.current = text;
    take(text);
  };
  return (
    <>
      <span className="flex w-26 items-center gap-1">
        <input
          className={`input input-sm w-full text-right ${isBad ? 'input-error' : ''}`}
          value={text}
          inputMode="decimal"
          aria-label={parameter.label}
          aria-invalid={isBad}
          placeholder={placeholder ?? (parameter.nullable ? 'none' : '')}
          onChange={(e) => settle(e.target.value, SETTLED.typed)}
          onBlur={() => take(text)}
          onKeyDown={enter}
        />
        <span className="w-7 whitespace-nowrap opacity-80">{unitSign(parameter.unit)}</span>
      </span>
      {hasSlider(parameter) ? (
        <input
          type="range"
          className="range range-xs w-full"
          aria-label={`${parameter.label}, slider`}
          min={(parameter.min ?? 0) * factor}
          max={(parameter.max ?? 0) * factor}
          step={parameter.unit === 'share' || parameter.unit === 'deg' ? 1 : 0.1}
          value={readNumber(parameter, text) || (parameter.min ?? 0) * factor}
          onChange={(e) => settle(e.target.value, SETTLED.slid)}
        />
      ) : null}
    </>
  );
}

/** One parameter, drawn from its declaration. */
export function ParameterField({ parameter, value, onChange, names, placeholder }: FieldProps) {
  const p = parameter;
  // More words than fit side by side go into a list.
  const many = p.type === 'string' && p.choices.join('').length > 26;
  const control = () => {
    if (p.picks === 'names') {
      return (
        <select className="select select-sm w-34" aria-label={p.label} value={(value as string) ?? ''} onChange={(e) => onChange(e.target.value || undefined)}>
          <option value="">{p.required ? 'choose' : 'none'}</option>
          {names?.map((n) => (
            <option key={n.id} value={n.id}>
              {n.name}
            </option>
          ))}
        </select>
      );
    }
    if (p.type === 'array') {
      const chosen = (value as string[] | undefined) ?? p.choices;
      return (
        <span className="grid grid-cols-2 gap-x-2 gap-y-1" role="group" aria-label={p.label}>
          {p.choices.map((choice) => (
            <label key={choice} className="flex items-center gap-1.5 leading-tight">
              <input type="checkbox" className="checkbox checkbox-xs" checked={chosen.includes(choice)} onChange={(e) => onChange(p.choices.filter((c) => (c === choice ? e.target.checked : chosen.includes(c))))} />
              {FAMILIES[choice]?.label ?? choice.replace(/[A-Z]/g, (l) => ` ${l.toLowerCase()}`)}
            </label>
          ))}
        </span>
      );
    }
    if (many) {
      return (
        <select className="select select-sm w-40" aria-label={p.label} value={(value as string) ?? ''} onChange={(e) => onChange(e.target.value)}>
          {p.choices.map((choice) => (
            <option key={choice} value={choice}>
              {choice.replaceAll('-', ' ')}
            </option>
          ))}
        </select>
      );
    }
    if (p.choices.length > 0) {
      return (
        <span className="join" role="radiogroup" aria-label={p.label}>
          {p.choices.map((choice) => (
            <button key={choice} type="button" role="radio" aria-checked={value === choice} className={`btn btn-sm join-item px-2 font-normal ${value === choice ? 'border-base-content/60 bg-neutral font-semibold' : ''}`} onClick={() => onChange(choice)}>
              {choice.toUpperCase().length === 2 && choice[1] && 'xyz'.includes(choice[1]) ? choice.toUpperCase() : choice}
            </button>
          ))}
        </span>
      );
    }
    if (p.type === 'bool') return <input type="checkbox" className="checkbox checkbox-sm" aria-label={p.label} checked={Boolean(value)} onChange={(e) => onChange(e.target.checked)} />;
    if (p.type === 'string' || p.type === 'string|float') return <input className="input input-sm w-34" aria-label={p.label} value={(value as string) ?? ''} placeholder={placeholder ?? (p.nullable ? 'by itself' : '')} onChange={(e) => onChange(e.target.value || undefined)} />;
    return <NumberField parameter={p} value={value} onChange={onChange} placeholder={placeholder} />;
  };
  const wide = p.choices.length > 3 && !many;
  return (
    <div className={wide ? 'grid gap-1' : `flex items-center gap-2 ${hasSlider(p) ? 'flex-wrap' : ''}`} title={p.help}>
      <span className="flex-1">{p.label}</span>
      {control()}
    </div>
  );
}
