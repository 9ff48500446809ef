import { type RefObject, useEffect, useRef, useState } from 'react';
import { toast } from 'sonner';
import { api } from '../api/client';
import type { ArtefactItem, BodyItem } from '../api/types';
import { collapsesTo, type HeldLevels, type Levels, levelAt, readLevels, shadesWithin, shareOf } from '../features/lighten/levels';
import { isCurrent } from '../features/lighten/shapes';
import { useView, useWorkspace } from '../state/context';
import type { ShownLevel } from '../viewport/levelLayer';
import type { Viewport } from '../viewport/Viewport';

/** Shows the bodies at the count of faces that the slider stands at, from the collapses that were kept. */
export function useLevels(viewport: RefObject<Viewport | null>, artefacts: readonly ArtefactItem[], bodies: readonly BodyItem[], loading: boolean): void {
  const { data, projectId, store } = useWorkspace();
  // What the receiver can bear: more is all one colour.
  const { toleranceMm } = data.project.brief;
  const shown = useView((s) => s.level);
  const current = artefacts.filter((a) => a.kind === 'levels' && isCurrent(a, bodies));
  const key = shown ? current.map((a) => `${a.bodyId} ${a.blob}`).join(';') : '';
  // Large, and of use to this trial alone: what is read for the next one takes its place.
  const read = useRef<{ key: string; levels: Map<string, Levels> }>({ key: '', levels: new Map() });
  const [ready, setReady] = useState('');
  // biome-ignore lint/correctness/useExhaustiveDependencies: the key says which, and bodies must be loaded to be lightened
  useEffect(() => {
    if (key === '' || loading || read.current.key === key) return;
    let live = true;
    Promise.all(
      current.map(async (a): Promise<[string, Levels][]> => {
        const held = JSON.parse(new TextDecoder().decode(await api.blob(projectId, a.blob))) as HeldLevels;
        const geometry = viewport.current?.geometryOf(a.bodyId ?? '');
        return geometry ? [[a.bodyId ?? '', readLevels(held, geometry.positions.length / 3)]] : [];
      }),
    )
      .then((levels) => {
        if (!live) return;
        read.current = { key, levels: new Map(levels.flat()) };
        setReady(key);
      })
      .catch((problem: Error) => toast.error(problem.message));
    return () => {
      live = false;
    };
  }, [key, loading, projectId, viewport]);

  // biome-ignore lint/correctness/useExhaustiveDependencies: a body that was just loaded is lightened too
  useEffect(() => {
    const view = viewport.current;
    const { levels } = read.current;
    if (!view || !shown || key === '' || read.current.key !== key) return;
    const all = [...levels.values()][0]?.stops.map((_, s) => ({ faces: [...levels.values()].reduce((sum, one) => sum + (one.stops[s]?.faces ?? 0), 0) })) ?? [];
    const at = [...levels].flatMap(([id, one]) => {
      const geometry = view.geometryOf(id);
      const collapses = collapsesTo(one, shareOf(one.stops, all, shown.faces));
      return geometry && collapses > 0 ? [{ id, level: levelAt(one, geometry, collapses) }] : [];
    });
    view.setLevels(new Map(at.map(({ id, level }): [string, ShownLevel] => [id, { ...level, shades: shown.isShaded ? shadesWithin(level, toleranceMm) : null }])));
    store.setState({ levelRange: shown.isShaded ? toleranceMm : null });
  }, [shown, key, ready, loading, toleranceMm, viewport, store]);

  const isShown = key !== '';
  useEffect(() => {
    if (!isShown) return;
    return () => {
      viewport.current?.setLevels(new Map());
      store.setState({ levelRange: null });
    };
  }, [isShown, viewport, store]);
}
