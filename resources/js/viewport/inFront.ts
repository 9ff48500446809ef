/** What a ray through the pointer comes near: how far along the ray, how far beside it, and whether it is a surface rather than a point. */
export interface Near {
  along: number;
  away: number;
  isSurface: boolean;
}

/** Points before others are strays where the others are so many times as many. */
const FEW = 5;

/** Of all that a ray comes near, what is in front counts, and of that the nearest to the ray: a pick is then as exact as the points are dense, and a stray does not take it. */
export function inFront<T extends Near>(near: readonly T[], slack: number): T | null {
  const sorted = [...near].sort((a, b) => a.along - b.along);
  // How many lie in a layer as deep as the ray is wide, from each on.
  const counts: number[] = [];
  for (let i = 0, end = 0; i < sorted.length; i++) {
    while (end < sorted.length && sorted[end]!.along < sorted[i]!.along + slack) end++;
    counts.push(end - i);
  }
  const most = counts.reduce((a, b) => Math.max(a, b), 0);
  const front = sorted.findIndex((one, i) => one.isSurface || counts[i]! * FEW > most);
  let best: T | null = null;
  for (const one of sorted.slice(Math.max(0, front), front + (counts[front] ?? 0))) if (!best || one.away < best.away) best = one;
  return best;
}
