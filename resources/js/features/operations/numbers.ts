import type { ParameterInfo } from '../../api/types';
import { type NumberKind, readTyped, spelled } from '../../ui/typed';

/** Ranges wider than this are typed: a slider would jump over what is meant. */
const WIDEST = 100;

/** Whether a number is one to feel one's way to: a share, an angle or a sensitivity between two bounds. */
export const hasSlider = (p: ParameterInfo): boolean => p.type === 'float' && p.min !== null && p.max !== null && p.max - p.min <= WIDEST;

/** How many of the units a field shows are one of the parameter's own: shares are typed as per cent. */
export const shownFactor = (p: ParameterInfo): number => (p.unit === 'share' ? 100 : 1);

const kindOf = (p: ParameterInfo): NumberKind => ({ isLength: p.unit === 'mm', isWhole: p.type === 'int', sign: { share: '%', deg: '°' }[p.unit] });

/** What is typed, in shown units: null when empty, NaN when it is no number. */
export function readNumber(p: ParameterInfo, text: string): number | null {
  const typed = readTyped(text, kindOf(p));
  return typed && ('value' in typed ? typed.value : Number.NaN);
}

/** Why what is typed cannot be taken, in words: it is no number, or out of the parameter's range; null where it can, or is nothing. */
export function whyBad(p: ParameterInfo, text: string): string | null {
  const typed = readTyped(text, kindOf(p));
  if (typed === null) return null;
  if ('why' in typed) return typed.why;
  const factor = shownFactor(p);
  const number = typed.value / factor;
  const bound = (of: number) => spelled(of * factor);
  if (p.max !== null && number > p.max) return `At most ${bound(p.max)}.`;
  if (p.min !== null && (p.exclusiveMin ? number <= p.min : number < p.min)) return p.exclusiveMin ? `More than ${bound(p.min)}.` : `At least ${bound(p.min)}.`;
  return null;
}

export const isBadNumber = (p: ParameterInfo, text: string): boolean => whyBad(p, text) !== null;

/** What was typed in another way than it is shown, as it is understood: "30 k" is 30 000; null where that is plain, or it is no number. */
export function understoodAs(p: ParameterInfo, text: string): string | null {
  const typed = readTyped(text, kindOf(p));
  return typed && 'value' in typed && !typed.isPlain ? `= ${spelled(typed.value)}` : null;
}
