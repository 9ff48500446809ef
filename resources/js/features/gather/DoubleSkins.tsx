import { PlaceButton } from '../../ui/PlaceButton';

export interface Skin {
  centre: [number, number, number];
  gapMm: number;
  areaMm2: number;
  within: boolean;
  passes: string[];
}

/** As many as are worth going to one by one. */
const LISTED = 8;

/** Places where one wall lies in two layers; a click goes there. */
export function DoubleSkins({ skins }: { skins: Skin[] }) {
  if (skins.length === 0) return null;
  return (
    <section aria-label="Double skins">
      <h3 className="font-semibold">Double skins</h3>
      <ul>
        {skins.slice(0, LISTED).map((s) => (
          <li key={s.centre.join()} className="flex">
            <PlaceButton centre={s.centre} acrossMm={2 * Math.sqrt(s.areaMm2)} title={`Go there; ${s.within ? 'within' : 'between'} ${s.passes.join(', ')}`}>
              <span className="flex-1 truncate">
                {s.gapMm.toFixed(2)} mm apart {s.within ? 'within one pass' : `in ${s.passes.length} passes`}
              </span>
              <span className="opacity-80">{s.areaMm2 >= 1000 ? `${(s.areaMm2 / 100).toFixed(0)} cm²` : `${s.areaMm2.toFixed(0)} mm²`}</span>
            </PlaceButton>
          </li>
        ))}
      </ul>
      {skins.length > LISTED ? <p className="opacity-85">and {skins.length - LISTED} smaller ones</p> : null}
    </section>
  );
}
