import { count } from '../../ui/format';
import { PlaceButton } from '../../ui/PlaceButton';

export type Place = [number, number, number];

export interface Cluster {
  pass: string;
  points: number;
  sizeMm: number;
  centre: Place;
}

/** The clusters that a trial would take; each can be looked at, and left where it is. */
export function StrayList({ clusters, keep, onKeep }: { clusters: Cluster[]; keep: Place[]; onKeep: (keep: Place[]) => void }) {
  const at = (place: Place) => place.map((v) => v.toFixed(0)).join(', ');
  return (
    <ul aria-label="Clusters">
      {clusters.map((c) => (
        <li key={c.pass + c.centre.join()} className="flex items-center gap-1">
          <input type="checkbox" className="checkbox checkbox-xs" aria-label={`Take away ${c.points} points of ${c.pass} at ${at(c.centre)}`} checked={!keep.some((k) => k.join() === c.centre.join())} onChange={(e) => onKeep(e.target.checked ? keep.filter((k) => k.join() !== c.centre.join()) : [...keep, c.centre])} />
          <PlaceButton centre={c.centre} acrossMm={3 * c.sizeMm}>
            <span className="flex-1 truncate">{c.pass}</span>
            <span className="opacity-80">
              {count(c.points)} pt, {c.sizeMm.toFixed(1)} mm
            </span>
          </PlaceButton>
        </li>
      ))}
      {keep
        .filter((k) => !clusters.some((c) => c.centre.join() === k.join()))
        .map((k) => (
          <li key={k.join()} className="flex items-center gap-1 opacity-85">
            <input type="checkbox" className="checkbox checkbox-xs" aria-label={`Take away the cluster at ${at(k)}`} checked={false} onChange={() => onKeep(keep.filter((other) => other !== k))} />
            <span className="px-1">left alone at {at(k)} mm</span>
          </li>
        ))}
    </ul>
  );
}
