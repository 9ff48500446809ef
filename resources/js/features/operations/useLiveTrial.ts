import { useEffect, useRef } from 'react';
import { sameParameters } from './trial';

/** Milliseconds between the last change of a filter and its trial. */
const PAUSE = 200;

/** Tries a filter again whenever its parameters have changed; not when its form is just opened, for that asks for nothing yet. */
export function useLiveTrial(wanted: boolean, parameters: Record<string, unknown>, attempt: () => void): void {
  const last = useRef(parameters);
  const latest = useRef(attempt);
  latest.current = attempt;
  const text = JSON.stringify(parameters);
  useEffect(() => {
    if (!wanted || sameParameters(last.current, JSON.parse(text))) return;
    const timer = window.setTimeout(() => {
      last.current = JSON.parse(text);
      latest.current();
    }, PAUSE);
    return () => window.clearTimeout(timer);
  }, [wanted, text]);
}
