import { type RefObject, useEffect } from 'react';
import { shadeInWords } from '../features/deliver/probes';
import { useView, useWorkspace } from '../state/context';
import type { Viewport } from '../viewport/Viewport';
import { useMaps } from './useMaps';

/** While a part is coloured by a map, a click reads its figure there; what was read stays as long as the colours do. */
export function useProbes(viewport: RefObject<Viewport | null>): void {
  const { store } = useWorkspace();
  const name = useView((s) => s.map);
  const clicked = useView((s) => s.clicked);
  const maps = useMaps().filter((m) => m.label === name);
  const key = maps.map((m) => m.blob).join();
  // biome-ignore lint/correctness/useExhaustiveDependencies: what was read is of these maps
  useEffect(() => () => store.setState({ probes: [] }), [key, store]);
  // biome-ignore lint/correctness/useExhaustiveDependencies: once a click
  useEffect(() => {
    const map = clicked && maps.find((m) => m.target === clicked.hit.itemId);
    if (!clicked || !map) return;
    const words = shadeInWords(viewport.current?.shadeAt(clicked.hit) ?? null, map);
    if (words) store.setState((s) => ({ probes: [...s.probes, { itemId: clicked.hit.itemId, pointMm: clicked.hit.pointMm, words }] }));
  }, [clicked]);
}
