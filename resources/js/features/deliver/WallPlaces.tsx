import { useEffect } from 'react';
import type { StepItem } from '../../api/types';
import { useView, useWorkspace } from '../../state/context';
import { PlaceButton } from '../../ui/PlaceButton';

interface Thin {
  point: [number, number, number];
  /** mm */
  thickness: number;
}

/** The map that a measured wall gives, as TakeMeasure calls it. */
const WALL = 'Wall';

/** mm across that are shown around a place gone to. */
const ACROSS_MM = 25;

/** Where the wall of a body is thinnest; the view shows how thick it is as colours meanwhile. Nothing for what is no wall of a whole body. */
export function WallPlaces({ step }: { step: Pick<StepItem, 'figures'> }) {
  const { store } = useWorkspace();
  const shown = useView((s) => s.map === WALL);
  const hasMap = step.figures?.maps?.some((map) => map.label === WALL) ?? false;
  useEffect(() => {
    if (!hasMap) return;
    store.setState({ map: WALL });
    return () => store.setState({ map: null });
  }, [store, hasMap]);
  const [measured] = (step.figures?.after.measurements as { places?: Thin[] }[] | undefined) ?? [];
  if (!measured?.places) return null;
  return (
    <section className="grid gap-1" aria-label="The wall">
      {hasMap ? (
        <label className="flex items-center gap-2">
          <input type="checkbox" className="checkbox checkbox-xs" checked={shown} onChange={(e) => store.setState({ map: e.target.checked ? WALL : null })} /> Coloured by how thick it is
        </label>
      ) : null}
      <p className="opacity-80">Thinnest places</p>
      <ul>
        {measured.places.map((place) => (
          <li key={place.point.join()} className="flex">
            <PlaceButton centre={place.point} acrossMm={ACROSS_MM}>
              <span className="flex-1 truncate">{place.point.map((v) => v.toFixed(1)).join(', ')}</span>
              <span className="opacity-80">{place.thickness.toFixed(3)} mm</span>
            </PlaceButton>
          </li>
        ))}
      </ul>
    </section>
  );
}
