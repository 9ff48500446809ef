import { type KeyboardEvent, useEffect, useId, useRef, useState } from 'react';
import type { ParameterInfo } from '../../api/types';
import { unitSign } from './inWords';
import { hasSlider, isBadNumber, readNumber, shownFactor, understoodAs, whyBad } from './numbers';

interface NumberFieldProps {
  parameter: ParameterInfo;
  value: unknown;
  onChange: (value: unknown) => void;
  placeholder?: string;
}

/** Milliseconds that a number must stand still before it is taken. */
const SETTLED = { typed: 400, slid: 120 } as const;

/** A number with its unit, and a slider where its bounds are known. */
export function NumberField({ parameter, value, onChange, placeholder }: NumberFieldProps) {
  const factor = shownFactor(parameter);
  const shown = typeof value === 'number' ? String(+(value * factor).toPrecision(6)) : '';
  const [text, setText] = useState(shown);
  const entered = useRef(shown);
  const timer = useRef<number | undefined>(undefined);
  // What is being typed stays as it is typed: "1." is not made "1" under the fingers.
  useEffect(() => setText((old) => (shown !== '' && readNumber(parameter, old) === Number(shown) ? old : shown)), [parameter, shown]);
  useEffect(() => () => window.clearTimeout(timer.current), []);
  const why = whyBad(parameter, text);
  const told = understoodAs(parameter, text);
  const note = useId();
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
          className={`input input-sm w-full text-right ${why ? 'input-error' : ''}`}
          value={text}
          inputMode="decimal"
          aria-label={parameter.label}
          aria-invalid={why !== null}
          aria-describedby={why || told ? note : undefined}
          placeholder={placeholder ?? (parameter.nullable ? 'none' : '')}
          onChange={(e) => settle(e.target.value, SETTLED.typed)}
          onBlur={() => take(text)}
          onKeyDown={enter}
        />
        <span className="min-w-7 whitespace-nowrap opacity-80">{unitSign(parameter.unit)}</span>
      </span>
      {why || told ? (
        <span id={note} role="status" className={`w-full text-right leading-tight ${why ? 'text-warning' : 'opacity-85'}`}>
          {why ?? `${told} ${unitSign(parameter.unit)}`}
        </span>
      ) : null}
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
