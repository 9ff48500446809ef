import type { StepItem } from '../../api/types';
import { secondsBetween } from '../../ui/format';

/** Before this share of the work is done its pace says little. */
const EARLY = 0.05;

/**
 * How long a running step still takes, in words: at first by what such steps have taken on this machine, later by its own pace. Null while it has not begun and nothing is known.
 *
 * @param now milliseconds, as Date.now() tells them
 */
export function timeLeft({ state, begunAt, expected, progress }: Pick<StepItem, 'state' | 'begunAt' | 'expected' | 'progress'>, now: number): string | null {
  if (state !== 'running' || begunAt === null) return null;
  const spent = Math.max(0, (now - Date.parse(begunAt)) / 1000);
  const byPace = progress > EARLY ? (spent / progress) * (1 - progress) : null;
  if (!expected) return byPace === null ? null : `${secondsBetween([byPace, byPace])} left`;
  const known = expected.map((s) => s - spent) as [number, number];
  if (byPace === null) return known[1] <= 0 ? 'longer than usual' : `${secondsBetween([Math.max(0, known[0]), known[1]])} left`;
  // The farther it is, the more its own pace counts.
  const mixed = known.map((s) => Math.max(0, (1 - progress) * Math.max(0, s) + progress * byPace)) as [number, number];
  return known[1] <= 0 ? `longer than usual, ${secondsBetween([byPace, byPace])} left` : `${secondsBetween(mixed)} left`;
}
