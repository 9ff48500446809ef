import { type RefObject, useEffect } from 'react';
import type { BodyItem } from '../api/types';
import { meantOutlines } from '../features/mend/holes';
import { useView } from '../state/context';
import type { Viewport } from '../viewport/Viewport';

/** Draws the rims that somebody wants open, on the bodies that are shown: an open rim is a fault but where it is meant. */
export function useMeantRims(viewport: RefObject<Viewport | null>, bodies: readonly BodyItem[]): void {
  const hidden = useView((s) => s.hidden);
  const outlines = meantOutlines(bodies.filter((body) => !hidden[body.id]));
  const key = JSON.stringify(outlines);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says all that is drawn
  useEffect(() => viewport.current?.showMeantRims(outlines), [viewport, key]);
}
