/** Keys whose value says enough by itself. */
const PLAIN: ReadonlySet<string> = new Set(['datum', 'find', 'how', 'of', 'target', 'origin']);

/** Which axis of a file points up, as briefs hold it: "+z". */
const upInWords = (up: string): string => `${up.slice(1).toUpperCase()} ${up.startsWith('-') ? 'down' : 'up'}`;

/** A brief, as a delivery keeps it: what the receiver needs. */
interface HeldBrief {
  unit: string;
  up: string;
  faceBudget: number;
  toleranceMm: number;
  closed: boolean;
  leastMeasured: number;
}

const briefInWords = (brief: HeldBrief): string => [brief.unit, upInWords(brief.up), `at most ${brief.faceBudget.toLocaleString('en-GB')} faces`, `95 % within ${brief.toleranceMm} mm`, `at least ${Math.round(100 * brief.leastMeasured)} % measured`, brief.closed ? 'closed' : 'may be open'].join(', ');

/** A key of a part of a parameter, as people say it: leaveOpen is "leave open", sizeMm "size". */
const keyInWords = (key: string): string =>
  key
    .replace(/(Mm|Deg)$/, '')
    .replace(/[A-Z]/g, (letter) => ` ${letter.toLowerCase()}`)
    .trim();

const unitOfKey = (key: string): string => (key.endsWith('Mm') ? ' mm' : key.endsWith('Deg') ? '°' : '');

const count = (ranges: readonly (readonly number[])[]): number => ranges.reduce((n, [from = 0, to = from]) => n + to - from + 1, 0);

/** What a parameter of a step was set to, for a line of text; names gives what ids stand for. */
export function inWords(value: unknown, names: Readonly<Record<string, string>> = {}): string {
  if (value === null || value === undefined) return 'default';
  if (typeof value === 'boolean') return value ? 'yes' : 'no';
  if (typeof value === 'number') return String(+value.toFixed(4));
  if (typeof value === 'string') return names[value] ?? value;
  if (Array.isArray(value)) {
    if (value.length === 0) return 'none';
    if (value.every((v) => typeof v === 'number') || value.every((v) => typeof v === 'string')) return value.map((v) => inWords(v, names)).join(', ');
    if (value.every(Array.isArray)) return value.length === 1 ? inWords(value[0], names) : `${value.length} places`;
    return value.length > 3 ? `${value.length} of them` : value.map((v) => inWords(v, names)).join('; ');
  }
  // A fixture: where each of its heads stands is for the file.
  const { heads } = value as { heads?: unknown };
  if (Array.isArray(heads)) return `${heads.length} ${heads.length === 1 ? 'head' : 'heads'}`;
  if ('faceBudget' in (value as object)) return briefInWords(value as HeldBrief);
  const { target, ranges, indices, ...rest } = value as Record<string, unknown>;
  if (target !== undefined && (Array.isArray(ranges) || Array.isArray(indices))) {
    return `${Array.isArray(ranges) ? count(ranges) : (indices as unknown[]).length} selected on ${inWords(target, names)}`;
  }
  return Object.entries(target === undefined ? rest : { target, ...rest })
    .filter(([, v]) => v !== false && v !== null)
    .sort(([a], [b]) => Number(PLAIN.has(b)) - Number(PLAIN.has(a)))
    .map(([key, v]) => (PLAIN.has(key) ? inWords(v, names) : `${keyInWords(key)} ${inWords(v, names)}${unitOfKey(key)}`))
    .join(', ');
}

/** The sign of a unit behind its number; a share is shown in hundredths. */
export const unitSign = (unit: string): string => (unit === 'share' ? '%' : unit === 'deg' ? '°' : unit.replace(/^1\//, '/'));
