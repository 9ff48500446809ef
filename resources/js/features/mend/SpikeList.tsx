import { PlaceButton } from '../../ui/PlaceButton';

export interface Spike {
  body: string;
  centre: [number, number, number];
  movedMm: number;
}

/** As many as are worth going to one by one. */
const LISTED = 10;

/** What despiking would lay down, the highest first. */
export function SpikeList({ spikes, all }: { spikes: Spike[]; all: number }) {
  if (spikes.length === 0) return null;
  return (
    <section aria-label="Spikes">
      <ul>
        {spikes.slice(0, LISTED).map((s) => (
          <li key={s.centre.join()} className="flex">
            <PlaceButton centre={s.centre} acrossMm={20 * s.movedMm}>
              <span className="flex-1 truncate">{s.body}</span>
              <span className="opacity-80">{s.movedMm.toFixed(2)} mm high</span>
            </PlaceButton>
          </li>
        ))}
      </ul>
      {all > LISTED ? <p className="opacity-85">and {all - LISTED} lower ones</p> : null}
    </section>
  );
}
