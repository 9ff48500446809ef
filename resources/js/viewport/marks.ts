/** Which points of a cloud or faces of a mesh are selected: a byte each, by item. */
export type Marks = ReadonlyMap<string, Uint8Array>;

export type SelectMode = 'replace' | 'add' | 'subtract';

/** A selection as the server wants it. */
export interface Selection {
  target: string;
  ranges: [number, number][];
  count: number;
  /** points or faces that the item has: on another state of it the ranges mean other places */
  of: number;
}

export const NOTHING: Marks = new Map();

/** The selection after a gesture found something. */
export function combine(base: Marks, found: Marks, mode: SelectMode): Marks {
  if (mode === 'replace') return found;
  const out = new Map(base);
  for (const [id, marks] of found) {
    const old = base.get(id);
    if (!old) {
      if (mode === 'add') out.set(id, marks);
      continue;
    }
    const next = old.slice();
    for (let i = 0; i < next.length; i++) if (marks[i]) next[i] = mode === 'add' ? 1 : 0;
    out.set(id, next);
  }
  return out;
}

export function countOf(marks: Uint8Array): number {
  let n = 0;
  for (let i = 0; i < marks.length; i++) n += marks[i]!;
  return n;
}

export function toRanges(marks: Uint8Array): [number, number][] {
  const ranges: [number, number][] = [];
  for (let i = marks.indexOf(1); i >= 0; i = marks.indexOf(1, i)) {
    const from = i;
    while (i < marks.length && marks[i]) i++;
    ranges.push([from, i - 1]);
  }
  return ranges;
}

export function toSelection(marks: Marks): Selection[] {
  return [...marks].map(([target, m]) => ({ target, ranges: toRanges(m), count: countOf(m), of: m.length })).filter((s) => s.count > 0);
}

export const toMarks = (selection: readonly Selection[]): Marks =>
  new Map(
    selection.map(({ target, ranges, of }) => {
      const marks = new Uint8Array(of);
      for (const [from, to] of ranges) marks.fill(1, from, to + 1);
      return [target, marks];
    }),
  );
