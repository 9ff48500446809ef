import { Crosshair } from 'lucide-react';
import { useWorkspace } from '../../workspace/context';

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
  const { viewport } = useWorkspace();
  if (skins.length === 0) return null;
  return (
    <section aria-label="Double skins">
      <h3 className="font-semibold">Double skins</h3>
      <ul>
        {skins.slice(0, LISTED).map((s) => (
          <li key={s.centre.join()}>
            <button type="button" className="flex w-full items-center gap-1 rounded-field px-1 text-left hover:bg-base-300" title={`Go there; ${s.within ? 'within' : 'between'} ${s.passes.join(', ')}`} onClick={() => viewport.current?.flyTo(s.centre, Math.max(10, 2 * Math.sqrt(s.areaMm2)))}>
              <Crosshair size={12} aria-hidden />
              <span className="flex-1 truncate">
                {s.gapMm.toFixed(2)} mm apart {s.within ? 'within one pass' : `in ${s.passes.length} passes`}
              </span>
              <span className="opacity-80">{s.areaMm2 >= 1000 ? `${(s.areaMm2 / 100).toFixed(0)} cm²` : `${s.areaMm2.toFixed(0)} mm²`}</span>
            </button>
          </li>
        ))}
      </ul>
      {skins.length > LISTED ? <p className="opacity-85">and {skins.length - LISTED} smaller ones</p> : null}
    </section>
  );
}
