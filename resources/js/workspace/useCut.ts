import { type RefObject, useEffect } from 'react';
import { useView } from '../state/context';
import type { Viewport } from '../viewport/Viewport';

/** Cuts the view open where the form of a step asks for it. */
export function useCut(viewport: RefObject<Viewport | null>): void {
  const cut = useView((s) => s.cut);
  useEffect(() => viewport.current?.setCut(cut), [viewport, cut]);
}
