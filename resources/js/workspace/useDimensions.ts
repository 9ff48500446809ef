import { type RefObject, useEffect } from 'react';
import { latest, listed, standsOn } from '../features/deliver/measured';
import { moduleOf } from '../operations';
import { useView, useWorkspace } from '../state/context';
import type { ShownDimension } from '../viewport/dimensions';
import type { Viewport } from '../viewport/Viewport';

/** Draws the dimensions of sections, what was measured as long as the part is as it was then, and what is about to be measured. Only where things are delivered: elsewhere it would hide the part. */
export function useDimensions(viewport: RefObject<Viewport | null>, ofSections: readonly ShownDimension[]): void {
  const { data } = useWorkspace();
  const stage = useView((s) => s.stage);
  const open = useView((s) => s.openOperation);
  const preview = useView((s) => s.dimension);
  const hidden = useView((s) => s.dimensionsHidden);
  const probes = useView((s) => s.probes);
  const shown: ShownDimension[] = [
    ...(stage === 'deliver' && !hidden && (open === null || moduleOf(open).showsMeasured)
      ? latest(listed(data.steps))
          .filter((m) => m.line.length > 0 && standsOn(m, data.snapshot.bodies))
          .map(({ line, words }) => ({ line, words }))
      : []),
    ...(stage === 'deliver' && !hidden ? ofSections : []),
    ...(preview ? [preview] : []),
    ...probes.map(({ pointMm, words }) => ({ line: [pointMm], words })),
  ];
  const key = JSON.stringify(shown);
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says all that is drawn
  useEffect(() => viewport.current?.setDimensions(shown), [viewport, key]);
}
