import type { ParameterInfo } from '../../api/types';
import { parseLength } from '../../ui/format';

/** Ranges wider than this are typed: a slider would jump over what is meant. */
const WIDEST = 100;

/** Whether a number is one to feel one's way to: a share, an angle or a sensitivity between two bounds. */
export const hasSlider = (p: ParameterInfo): boolean => p.type === 'float' && p.min !== null && p.max !== null && p.max - p.min <= WIDEST;

/** How many of the units a field shows are one of the parameter's own: shares are typed as per cent. */
export const shownFactor = (p: ParameterInfo): number => (p.unit === 'share' ? 100 : 1);

/** What is typed, in shown units: null when empty, NaN when it is no number. */
export function readNumber(p: ParameterInfo, text: string): number | null {
  if (text.trim() === '') return null;
  return p.unit === 'mm' ? (parseLength(text) ?? Number.NaN) : Number(text);
}

/** Whether what is typed is no number, or out of the parameter's range. */
export function isBadNumber(p: ParameterInfo, text: string): boolean {
  const shown = readNumber(p, text);
  if (shown === null) return false;
  const number = shown / shownFactor(p);
  return Number.isNaN(number) || (p.max !== null && number > p.max) || (p.min !== null && (p.exclusiveMin ? number <= p.min : number < p.min));
}
