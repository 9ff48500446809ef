import type { BodyItem } from '../api/types';

/** The noise, mm, that has the last colour: what 95 of 100 vertices of the noisiest body stay under; null where no body tells. */
export function noiseRange(bodies: readonly Pick<BodyItem, 'figures'>[]): number | null {
  const noises = bodies.flatMap((b) => (b.figures?.noiseMm ? [b.figures.noiseMm] : []));
  return noises.length > 0 ? Math.max(...noises) : null;
}
