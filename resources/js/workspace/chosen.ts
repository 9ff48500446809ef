/** The marked rows of a list after a click on one: alone, with Ctrl one more or less, with Shift all from the last one on. */
export function chosenAfter(chosen: readonly string[], ids: readonly string[], id: string, keys: { ctrl: boolean; shift: boolean }): string[] {
  if (keys.ctrl) return chosen.includes(id) ? chosen.filter((c) => c !== id) : [...chosen, id];
  const last = chosen.at(-1);
  if (keys.shift && last !== undefined && ids.includes(last)) {
    const [from, to] = [ids.indexOf(last), ids.indexOf(id)].sort((a, b) => a - b) as [number, number];
    // The one that the range starts from stays last: another Shift click starts from it again.
    return [...ids.slice(from, to + 1).filter((c) => c !== last), last];
  }
  return chosen.length === 1 && chosen[0] === id ? [] : [id];
}

/** Names of the datums that were made of some others, in words; null for none. */
export function madeOf(ids: readonly string[], datums: readonly { id: string; name: string; parents: string[] }[]): string | null {
  const names = datums.filter((d) => ids.includes(d.id)).map((d) => d.name);
  const orphans = datums.filter((d) => !ids.includes(d.id) && d.parents.some((p) => names.includes(p))).map((d) => d.name);
  return orphans.length === 0 ? null : orphans.join(' and ');
}
