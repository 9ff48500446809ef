import { useEffect, useRef, useState } from 'react';
import { useView, useWorkspace } from '../../state/context';
import { withPart, withStrip } from '../../tools/rims/closing';
import { lengthOf, lineOf, stretchOf } from '../../tools/rims/rims';

/** As it is said in the list, mm. */
const inMm = (mm: number): string => `${mm < 10 ? mm.toFixed(1) : mm.toFixed(0)} mm`;

/** A stretch of one rim by two sliders, and what shall become of it: what a drag along the rim and a click beside it do, without a pointer. */
export function StretchOfRim({ rim, number, onDone }: { rim: string; number: number; onDone: () => void }) {
  const { store, viewport } = useWorkspace();
  const pending = useView((s) => s.rims.pending);
  const corners = viewport.current?.rimPlaces(rim) ?? [];
  const n = corners.length;
  const [begin, setBegin] = useState(0);
  // A stretch and the rest have a corner each between their ends: a side is named by one.
  const [edges, setEdges] = useState(Math.max(2, Math.round(n / 4)));
  const { stretch, side, rest } = stretchOf(rim, corners, begin, edges);
  const mine = lengthOf(lineOf(corners, stretch, side));
  const others = lengthOf(lineOf(corners, stretch, rest));
  // biome-ignore lint/correctness/useExhaustiveDependencies: the stretch is made anew from these each time
  useEffect(() => {
    store.setState((s) => ({ rims: { ...s.rims, drawn: stretch, side, at: stretch.to } }));
  }, [store, rim, n, begin, edges]);
  const box = useRef<HTMLFieldSetElement>(null);
  // It opens below its rim, which may be the last that is in sight.
  useEffect(() => {
    box.current?.scrollIntoView({ block: 'center' });
  }, []);
  useEffect(() => () => store.setState((s) => ({ rims: { ...s.rims, drawn: null, side: null, at: null } })), [store]);
  const done = (change: Partial<ReturnType<typeof store.getState>['rims']>) => {
    store.setState((s) => ({ rims: { ...s.rims, ...change } }));
    onDone();
  };
  const close = (on: typeof side) => done({ closing: withPart(store.getState().rims.closing, { ...stretch, side: on }), pending: null });
  const tooLong = mine > others ? 'A strip begins on at most half of a rim: make the stretch shorter.' : undefined;
  return (
    <fieldset
      ref={box}
      className="grid min-w-0 grid-cols-[minmax(0,1fr)] gap-1 rounded-field border border-base-300 p-1.5"
      aria-label={`Stretch of rim ${number}`}
      onKeyDown={(e) => {
        if (e.key !== 'Escape') return;
        e.stopPropagation();
        onDone();
      }}
    >
      <label className="flex items-center gap-2">
        <span className="w-12">begins</span>
        <input type="range" className="range range-xs min-w-0 flex-1" min={0} max={n - 1} value={begin} aria-valuetext={`${inMm(lengthOf(corners.slice(0, begin + 1)))} along the rim`} onChange={(e) => setBegin(Number(e.target.value))} />
      </label>
      <label className="flex items-center gap-2">
        <span className="w-12">{inMm(mine)}</span>
        <input type="range" className="range range-xs min-w-0 flex-1" aria-label="How long" min={2} max={n - 2} value={edges} aria-valuetext={inMm(mine)} onChange={(e) => setEdges(Number(e.target.value))} />
      </label>
      <div className="flex flex-wrap gap-1">
        {pending ? (
          <button type="button" className="btn btn-primary btn-xs" disabled={tooLong !== undefined} title={tooLong} onClick={() => done({ closing: withStrip(store.getState().rims.closing, [pending, stretch]), pending: null })}>
            Lay the strip to here
          </button>
        ) : (
          <>
            <button type="button" className="btn btn-primary btn-xs" title="Closes this stretch up to a curve between its ends" onClick={() => close(side)}>
              Close it
            </button>
            <button type="button" className="btn btn-xs" title={`Closes the other ${inMm(others)} of the rim up to a curve between the two ends`} onClick={() => close(rest)}>
              Close the rest
            </button>
            <button type="button" className="btn btn-xs" disabled={tooLong !== undefined} title={tooLong ?? 'A strip joins this stretch with another, on this or another rim'} onClick={() => done({ pending: stretch })}>
              Begin a strip
            </button>
          </>
        )}
      </div>
    </fieldset>
  );
}
