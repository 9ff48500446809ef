/** Numbers as people type them. */

export const UNITS: Record<string, number> = { mm: 1, cm: 10, m: 1000, in: 25.4, ft: 304.8 };

const INCH: ReadonlySet<string> = new Set(['"', '″']);

/** What a number is of: a length in mm, a count, or anything else, with the sign that may stand behind it. */
export interface NumberKind {
  isLength?: boolean;
  isWhole?: boolean;
  /** "%" or "°" */
  sign?: string;
}

/** What was typed: its value and whether it was written in a way that should be told back; why it is no number; null for nothing. */
export type Typed = { value: number; isPlain: boolean } | { why: string } | null;

const GROUPED = /^\d{1,3}([ '.,])\d{3}(?:\1\d{3})*$/;

/** A number without sign, unit or fraction: with a decimal comma or point, and groups of three parted by spaces, apostrophes, points or commas. */
function plain(text: string, isWhole: boolean): number | string {
  const marks = [...text].filter((c) => c === '.' || c === ',');
  const last = text.lastIndexOf(marks.at(-1) ?? ' ');
  const group = GROUPED.exec(text)?.[1];
  if (marks.length === 1 && group === marks[0]) {
    // "1.500" and "1,500": a count of thousands, or a number with three places.
    const joined = text.replace(marks[0] ?? '', '');
    if (isWhole) return Number(joined);
    if (group === '.' || text.startsWith('0')) return Number(text.replace(',', '.'));
    return `"${text}" may be ${joined} or ${text.replace(',', '.')}: write it one of these ways`;
  }
  if (group) return Number(text.replaceAll(group, ''));
  if (marks.length > 0 && new Set(marks).size === marks.length) {
    const whole = text.slice(0, last);
    if (/^\d*$/.test(whole) || GROUPED.test(whole)) return Number(`${whole.replace(/[^\d]/g, '')}.${text.slice(last + 1)}`);
  }
  return /^\d+$/.test(text) ? Number(text) : Number.NaN;
}

const nothing = (text: string, { isLength, isWhole }: NumberKind) => `"${text}" is no ${isLength ? 'length: type a number, with cm, m, in or ft behind it if it is not in mm' : isWhole ? 'whole number' : 'number'}`;

/** Reads "30 k", "60 000", "1,5", "1 3/8 in" and their like. */
export function readTyped(text: string, kind: NumberKind = {}): Typed {
  const clean = text
    .replace(/[\u00a0\u2009\u202f]/g, ' ')
    .replace(/−/g, '-')
    .trim();
  if (clean === '') return null;
  const found = /^([+-]?) *([\d.,' ]*[\d.,]) *(?:\/ *(\d+))? *([a-zA-Z"″%°]*)$/.exec(clean);
  if (!found) return { why: nothing(clean, kind) };
  const [, sign, digits = '', below, ending = ''] = found;
  let value: number | string;
  if (below) {
    // "1 3/8": whole ones before the fraction.
    const parts = digits.trim().split(' ');
    value = parts.length > 2 || !parts.every((p) => /^\d+$/.test(p)) ? Number.NaN : (parts.length === 2 ? Number(parts[0]) : 0) + Number(parts.at(-1)) / Number(below);
  } else value = plain(digits.trim(), kind.isWhole ?? false);
  if (typeof value === 'string') return { why: value };
  const factor = ending === '' || ending === kind.sign ? 1 : kind.isLength ? UNITS[INCH.has(ending) ? 'in' : ending.toLowerCase()] : ending.toLowerCase() === 'k' ? 1e3 : ending.toLowerCase() === 'm' ? 1e6 : undefined;
  value *= (factor ?? Number.NaN) * (sign === '-' ? -1 : 1);
  if (!Number.isFinite(value) || (kind.isWhole && Math.abs(value - Math.round(value)) > 1e-9 * Math.abs(value))) return { why: nothing(clean, kind) };
  return { value: kind.isWhole ? Math.round(value) : value, isPlain: /^[+-]?\d*\.?\d*$/.test(clean) || (clean === `${found[1]}${digits}${kind.sign ?? ''}` && /^\d*\.?\d*$/.test(digits)) };
}

/** 30000 becomes "30 000", so that a number typed in another way can be told back. */
export const spelled = (n: number): string => n.toLocaleString('en', { maximumFractionDigits: 6 }).replaceAll(',', ' ');
