/** Rows that belong together: their names differ in numbers only. */
export interface Group<T> {
  /** the name they share, numbers left out; empty for a row on its own */
  name: string;
  rows: T[];
}

/** So many of one kind are folded into a group. */
const LEAST = 4;

const kindOf = (name: string): string => name.replace(/[\s#_-]*\d+/g, '').trim();

/** The rows of a long list in groups, in the order of their first rows; a short list stays as it is. */
export function grouped<T extends { name: string }>(rows: readonly T[], from: number): Group<T>[] {
  const alone = rows.map((row) => ({ name: '', rows: [row] }));
  if (rows.length <= from) return alone;
  const kinds = new Map<string, T[]>();
  for (const row of rows) kinds.set(kindOf(row.name), [...(kinds.get(kindOf(row.name)) ?? []), row]);
  const out: Group<T>[] = [];
  for (const row of rows) {
    const kind = kindOf(row.name);
    const members = kinds.get(kind) ?? [];
    if (members.length < LEAST) out.push({ name: '', rows: [row] });
    else if (members[0] === row) out.push({ name: kind === '' ? 'numbered' : kind, rows: members });
  }
  return out;
}
