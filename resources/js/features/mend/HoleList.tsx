import { Spline, X } from 'lucide-react';
import { useEffect, useMemo, useRef, useState } from 'react';
import type { BodyItem } from '../../api/types';
import { useView, useWorkspace } from '../../state/context';
import { takenBack, type Wish, withTyped, withWishes, without } from '../../tools/rims/closing';
import { lengthOf, lineOf, type RimPart, type RimPlace, type RimStretch, type RimStrip } from '../../tools/rims/rims';
import { TypedNumber } from '../../ui/TypedNumber';
import { PlaceButton } from '../../ui/PlaceButton';
import { StretchOfRim } from './StretchOfRim';
import { areaOf, keyOf, type ListedHole, listedHoles, wishFor } from './holes';

const WISHES: { wish: Wish; label: string; title: string }[] = [
  { wish: 'close', label: 'close', title: 'Close this rim' },
  { wish: 'later', label: 'not now', title: 'Leave it as it is in this step' },
  { wish: 'open', label: 'leave open', title: 'Leave it open for good: the ready card counts it as wanted' },
];

/** So many are listed and drawn; "all up to" reaches the others. */
const LISTED = 60;

/** A rim with fewer edges has no two sides with a corner each between their ends. */
const LEAST_PARTED = 4;

/** A length or area with as many places as its size asks for. */
const short = (value: number): string => (value < 10 ? value.toFixed(1) : value.toFixed(0));

/** Draws the rims with their numbers, and what is picked on them, while the form is open. */
function useRimsInView(holes: readonly ListedHole[]) {
  const { viewport } = useWorkspace();
  const { closing, at, pending, drawn, side } = useView((s) => s.rims);
  const { wishes, parts, strips } = closing;
  const [, drawnAgain] = useState(0);
  useEffect(() => {
    viewport.current?.showRims(holes.slice(0, LISTED).map((hole, k) => ({ key: keyOf(hole), itemId: hole.bodyId, outline: hole.outline ?? [], text: String(k + 1), wish: wishFor(hole, wishes) })));
    // What came back with a step is as long as the line that is drawn now.
    drawnAgain((n) => n + 1);
  }, [viewport, holes, wishes]);
  useEffect(() => viewport.current?.showRimPicks({ at, pending, drawn, side, parts, strips }), [viewport, at, pending, drawn, side, parts, strips]);
  useEffect(() => () => viewport.current?.showRims([]), [viewport]);
}

/** Something that was drawn, in words, with a button to delete it. */
function Dropped({ words, onDrop }: { words: string; onDrop: () => void }) {
  return (
    <li className="flex items-center gap-1">
      <span className="flex-1">{words}</span>
      <button type="button" className="btn btn-ghost btn-xs btn-square" aria-label={`Delete: ${words}`} title="Delete it" onClick={onDrop}>
        <X size={13} aria-hidden />
      </button>
    </li>
  );
}

/** Every open rim with its size, numbered as in the view, and what shall become of it; parts and strips that were drawn. */
export function HoleList({ bodies }: { bodies: readonly BodyItem[] }) {
  const { store, viewport } = useWorkspace();
  const { closing, pending } = useView((s) => s.rims);
  const holes = useMemo(() => listedHoles(bodies), [bodies]);
  /** the rim that a stretch is chosen on by sliders */
  const [parted, setParted] = useState<string | null>(null);
  /** the button that opened it has the focus again when it closes */
  const opener = useRef<HTMLButtonElement | null>(null);
  useRimsInView(holes);
  const change = (by: typeof withWishes) => (wishes: Record<string, Wish>) => store.setState((s) => ({ rims: { ...s.rims, closing: by(s.rims.closing, wishes) } }));
  const [say, typed] = [change(withWishes), change(withTyped)];
  if (holes.length === 0) return null;
  const wishOf = (hole: ListedHole) => wishFor(hole, closing.wishes);
  const closed = holes.filter((hole) => wishOf(hole) === 'close');
  const free = holes.filter((hole) => !hole.leftOpen);
  const all = (wish: Wish) => say(Object.fromEntries(free.map((hole) => [keyOf(hole), wish])));
  const numberOf = (rim: string) => holes.findIndex((hole) => keyOf(hole) === rim) + 1;
  const longOf = (stretch: RimStretch, side?: RimPlace) => {
    const rim = viewport.current?.rimPlaces(stretch.from.rim) ?? [];
    return rim.length > 0 ? lengthOf(lineOf(rim, stretch, side)) : 0;
  };
  const drop = (dropped: RimPart | RimStrip) => store.setState((s) => ({ rims: { ...s.rims, closing: without(s.rims.closing, dropped) } }));
  const partDone = () => {
    setParted(null);
    opener.current?.focus();
  };
  const perBody = [...new Set(holes.map((hole) => hole.body))].map((body) => ({ body, holes: holes.flatMap((hole, k) => (hole.body === body && k < LISTED ? [{ hole, number: k + 1 }] : [])) }));
  return (
    <section aria-label="Open rims" className="grid grid-cols-[minmax(0,1fr)] gap-1">
      <div className="flex items-center">
        <h3 className="flex-1 font-semibold">
          {closed.length} of {holes.length} {holes.length === 1 ? 'rim' : 'rims'} to close
        </h3>
        <button type="button" className="btn btn-ghost btn-xs font-normal" onClick={() => all(closed.length > 0 ? 'later' : 'close')}>
          {closed.length > 0 ? 'None' : 'All'}
        </button>
      </div>
      <p className={pending ? 'text-warning' : 'opacity-85'}>
        {pending
          ? 'Now click the side of the rim to close up to a curve there, or drag along another stretch (or choose it beside its rim below) to join the two by a strip. Esc drops the stretch.'
          : 'In the view: click a rim to close it or not, click twice to leave it open for good, drag along it to close a part of it or to begin a strip.'}
      </p>
      {free.length > 1 ? (
        <div className="flex flex-wrap items-center gap-1">
          <span className="flex-1">Close all up to</span>
          <TypedNumber
            label="Close all up to"
            className="input input-sm w-16 text-right"
            value={undefined}
            onChange={(mm) => {
              if (mm !== undefined) typed(Object.fromEntries(free.map((hole) => [keyOf(hole), hole.diameter <= mm ? 'close' : 'later'])));
            }}
            isLength
            least={0}
          />
          <span className="opacity-80">mm</span>
        </div>
      ) : null}
      {perBody.map(({ body, holes: mine }) => (
        <div key={body} className="grid grid-cols-[minmax(0,1fr)] gap-0.5">
          {perBody.length > 1 ? <h4 className="truncate opacity-85">{body}</h4> : null}
          <ul className="grid grid-cols-[minmax(0,1fr)] gap-0.5" aria-label={`Rims of ${body}`}>
            {mine.map(({ hole, number }) => (
              <li key={keyOf(hole)} className="grid grid-cols-[minmax(0,1fr)] gap-1" data-hole={number}>
                <div className="flex items-center gap-0.5">
                  <PlaceButton centre={hole.centre} acrossMm={2.5 * hole.diameter} title={`Go there: ${hole.edges} edges, ${hole.perimeter.toFixed(1)} mm around, in ${hole.body}; closing it adds about ${short(areaOf(hole.outline ?? []))} mm²`}>
                    <span className="min-w-3 shrink-0 text-right font-semibold">{number}</span>
                    <span className="flex-1 truncate text-xs tracking-tight">
                      ø {short(hole.diameter)} mm <span className="opacity-80">+{short(areaOf(hole.outline ?? []))} mm²</span>
                    </span>
                  </PlaceButton>
                  <select className="select select-xs w-21 pl-2" aria-label={`Rim ${number}`} value={wishOf(hole)} onChange={(e) => say({ [keyOf(hole)]: e.target.value as Wish })}>
                    {WISHES.map((w) => (
                      <option key={w.wish} value={w.wish} title={w.title}>
                        {w.label}
                      </option>
                    ))}
                  </select>
                  <button
                    type="button"
                    className="btn btn-ghost btn-xs btn-square"
                    aria-expanded={parted === keyOf(hole)}
                    aria-label={`Stretch of rim ${number}`}
                    title={hole.edges < LEAST_PARTED ? `Only ${hole.edges} edges: close it whole` : 'A stretch of this rim: close a part of it, or join it with another by a strip'}
                    disabled={hole.edges < LEAST_PARTED}
                    onClick={(e) => {
                      opener.current = e.currentTarget;
                      setParted(parted === keyOf(hole) ? null : keyOf(hole));
                      viewport.current?.flyTo(hole.centre, Math.max(10, 2.5 * hole.diameter));
                    }}
                  >
                    <Spline size={13} aria-hidden />
                  </button>
                </div>
                {parted === keyOf(hole) ? <StretchOfRim rim={keyOf(hole)} number={number} onDone={partDone} /> : null}
              </li>
            ))}
          </ul>
        </div>
      ))}
      {holes.length > LISTED ? <p className="opacity-85">and {holes.length - LISTED} smaller ones, which are closed unless "all up to" says otherwise</p> : null}
      {closing.parts.length + closing.strips.length > 0 ? (
        <ul className="grid gap-0.5" aria-label="Parts and strips">
          {closing.parts.map((part) => {
            const words = `Part of rim ${numberOf(part.from.rim)}, ${short(longOf(part, part.side))} mm of it`;
            return <Dropped key={`${part.from.pointMm} ${part.to.pointMm} ${part.side.pointMm}`} words={words} onDrop={() => drop(part)} />;
          })}
          {closing.strips.map((strip) => {
            const [one, two] = strip;
            const words = `Strip from rim ${numberOf(one.from.rim)} to rim ${numberOf(two.from.rim)}, ${short(longOf(one))} to ${short(longOf(two))} mm wide`;
            return <Dropped key={`${one.from.pointMm} ${two.from.pointMm}`} words={words} onDrop={() => drop(strip)} />;
          })}
        </ul>
      ) : null}
      {closing.before ? (
        <button type="button" className="btn btn-ghost btn-xs justify-self-start font-normal" title="Takes back what was said last about a rim (Ctrl+Z)" onClick={() => store.setState((s) => ({ rims: { ...s.rims, closing: takenBack(s.rims.closing) } }))}>
          Take back the last
        </button>
      ) : null}
    </section>
  );
}
