import { useEffect, useMemo } from 'react';
import type { BodyItem } from '../../api/types';
import type { Viewport } from '../../viewport/Viewport';
import { PlaceButton } from '../../ui/PlaceButton';
import { useView, useWorkspace } from '../../state/context';
import { type ListedHole, listedHoles, nearestHole, type Wish, wishFor, withWish } from './holes';

const WISHES: { wish: Wish; label: string; title: string }[] = [
  { wish: 'close', label: 'close', title: 'Close this rim' },
  { wish: 'later', label: 'not now', title: 'Leave it as it is in this step' },
  { wish: 'open', label: 'leave open', title: 'Leave it open for good: the ready card counts it as wanted' },
];

/** So many fit beside each other in the panel; the rest are closed like the others. */
const LISTED = 40;

/** Draws the listed rims with their numbers while the form is open. */
function useShownRims(viewport: { current: Viewport | null }, holes: readonly ListedHole[], wishes: Record<string, Wish>) {
  useEffect(() => {
    viewport.current?.showRims(holes.slice(0, LISTED).map((hole, k) => ({ outline: hole.outline ?? [], text: String(k + 1), wish: wishFor(hole, wishes) })));
  }, [viewport, holes, wishes]);
  useEffect(() => () => viewport.current?.showRims([]), [viewport]);
}

const NO_WISHES: Record<string, Wish> = {};

/** The rims in the view, for what is picked on them. */
export function RimsInView() {
  const { data, viewport } = useWorkspace();
  const bodies = data.snapshot.bodies;
  useShownRims(
    viewport,
    useMemo(() => listedHoles(bodies), [bodies]),
    NO_WISHES,
  );
  return null;
}

/** Every open rim with its size, numbered as in the view, and what shall become of it. */
export function HoleList({ bodies, wishes, onWish }: { bodies: readonly BodyItem[]; wishes: Record<string, Wish>; onWish: (wishes: Record<string, Wish>) => void }) {
  const { store, viewport } = useWorkspace();
  const picks = useView((s) => s.picks);
  const holes = useMemo(() => listedHoles(bodies), [bodies]);
  // A click near a rim turns it from closing to not now, and back.
  useEffect(() => {
    const pick = picks.at(-1);
    if (!pick) return;
    store.setState({ picks: [] });
    const hole = nearestHole(pick.pointMm, holes);
    if (hole) onWish(withWish(hole, wishFor(hole, wishes) === 'close' ? 'later' : 'close', wishes));
  }, [picks, store, holes, wishes, onWish]);
  useShownRims(viewport, holes, wishes);
  if (holes.length === 0) return null;
  const closing = holes.filter((hole) => wishFor(hole, wishes) === 'close').length;
  const all = (wish: Wish) => onWish(holes.reduce((now, hole) => (hole.leftOpen ? now : withWish(hole, wish, now)), wishes));
  return (
    <section aria-label="Open rims" className="grid gap-1">
      <div className="flex items-center">
        <h3 className="flex-1 font-semibold">
          {closing} of {holes.length} {holes.length === 1 ? 'rim' : 'rims'} to close
        </h3>
        <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => all(closing > 0 ? 'later' : 'close')}>
          {closing > 0 ? 'None' : 'All'}
        </button>
      </div>
      <p className="opacity-85">Click a rim in the view to choose it, or here.</p>
      <ul className="grid gap-0.5">
        {holes.slice(0, LISTED).map((hole, k) => (
          <li key={hole.at.join()} className="flex items-center gap-1" data-hole={k + 1}>
            <PlaceButton centre={hole.centre} acrossMm={2.5 * hole.diameter} title={`Go there: ${hole.edges} edges, ${hole.perimeter.toFixed(1)} mm around, in ${hole.body}`}>
              <span className="w-5 shrink-0 text-right font-semibold">{k + 1}</span>
              <span className="flex-1 truncate">ø {hole.diameter < 10 ? hole.diameter.toFixed(1) : hole.diameter.toFixed(0)} mm</span>
            </PlaceButton>
            <select className="select select-xs w-26" aria-label={`Rim ${k + 1}`} value={wishFor(hole, wishes)} onChange={(e) => onWish(withWish(hole, e.target.value as Wish, wishes))}>
              {WISHES.map((w) => (
                <option key={w.wish} value={w.wish} title={w.title}>
                  {w.label}
                </option>
              ))}
            </select>
          </li>
        ))}
      </ul>
      {holes.length > LISTED ? <p className="opacity-85">and {holes.length - LISTED} smaller ones, which are closed</p> : null}
    </section>
  );
}
