/**
 * The share of the faces that a support takes off.
 *
 * @param below the shares at a support of 0, 0.01, ... 1
 */
export function shareBelow(below: readonly number[], support: number): number {
  const at = Math.max(0, Math.min(below.length - 1, 100 * support));
  const [low, high] = [below[Math.floor(at)] ?? 0, below[Math.ceil(at)] ?? 0];
  return low + (at - Math.floor(at)) * (high - low);
}
