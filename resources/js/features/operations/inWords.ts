/** Keys whose value says enough by itself. */
const PLAIN: ReadonlySet<string> = new Set(['datum', 'find', 'how', 'of', 'target', 'origin']);

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
  const { target, ranges, indices, ...rest } = value as Record<string, unknown>;
  if (target !== undefined && (Array.isArray(ranges) || Array.isArray(indices))) {
    return `${Array.isArray(ranges) ? count(ranges) : (indices as unknown[]).length} selected on ${inWords(target, names)}`;
  }
  return Object.entries(target === undefined ? rest : { target, ...rest })
    .filter(([, v]) => v !== false && v !== null)
    .sort(([a], [b]) => Number(PLAIN.has(b)) - Number(PLAIN.has(a)))
    .map(([key, v]) => (PLAIN.has(key) ? inWords(v, names) : `${key} ${inWords(v, names)}`))
    .join(', ');
}

/** The sign of a unit behind its number; a share is shown in hundredths. */
export const unitSign = (unit: string): string => (unit === 'share' ? '%' : unit === 'deg' ? '°' : unit.replace(/^1\//, '/'));
