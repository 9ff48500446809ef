import { Layers, Move } from 'lucide-react';
import { PlaceButton } from '../../ui/PlaceButton';

export interface Skin {
  centre: [number, number, number];
  gapMm: number;
  areaMm2: number;
  within: boolean;
  passes: string[];
  /** those that stand off the others, where these agree; steps of earlier releases do not say */
  off?: string[];
}

/** What the list says of a place. */
export const whose = ({ within, off = [], passes }: Skin): string => (within ? 'within one pass' : off.length > 0 && off.length < 3 ? `${off.join(' and ')} off` : `in ${passes.length} passes`);

/** Gaps up to this are resolved: a little wider than the widest listed, mm. */
export const gapFor = (skins: readonly Skin[]): number => Math.ceil(12 * Math.max(0, ...skins.map((s) => s.gapMm))) / 10;

/** As many as are worth going to one by one. */
const LISTED = 8;

/** Places where one wall lies in two layers; a click goes there. */
export function DoubleSkins({ skins, onResolve }: { skins: Skin[]; onResolve?: (by: 'moving' | 'dropping') => void }) {
  if (skins.length === 0) return null;
  return (
    <section aria-label="Double skins">
      <h3 className="font-semibold">Double skins</h3>
      <ul>
        {skins.slice(0, LISTED).map((s) => (
          <li key={s.centre.join()} className="flex">
            <PlaceButton centre={s.centre} acrossMm={2 * Math.sqrt(s.areaMm2)} title={`Go there; ${s.within ? 'within' : 'between'} ${s.passes.join(', ')}`}>
              <span className="flex-1 truncate">
                {s.gapMm.toFixed(2)} mm apart, {whose(s)}
              </span>
              <span className="opacity-80">{s.areaMm2 >= 1000 ? `${(s.areaMm2 / 100).toFixed(0)} cm²` : `${s.areaMm2.toFixed(0)} mm²`}</span>
            </PlaceButton>
          </li>
        ))}
      </ul>
      {skins.length > LISTED ? <p className="opacity-85">and {skins.length - LISTED} smaller ones</p> : null}
      {onResolve ? (
        <p className="mt-1 flex items-center gap-2">
          <span className="flex-1 opacity-85">Resolve</span>
          <button type="button" className="btn btn-sm font-normal" title="Brings the passes onto each other once more, where they stand off by no more than this" onClick={() => onResolve('moving')}>
            <Move size={13} aria-hidden /> By moving…
          </button>
          <button type="button" className="btn btn-sm font-normal" title="Each place keeps the points of the pass that saw it best" onClick={() => onResolve('dropping')}>
            <Layers size={13} aria-hidden /> By dropping…
          </button>
        </p>
      ) : null}
    </section>
  );
}
