import { useEffect, useState } from 'react';
import { createPortal } from 'react-dom';
import { Lock, LockOpen } from 'lucide-react';
import { api } from '../../api/client';
import { SIDES, type StandardView } from '../../viewport/ViewCamera';
import { useView, useWorkspace } from '../../state/context';

const LOCKS = ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'] as const;
/** With less than this share of its height above the first datum a part lies below it. */
const HEAD = 0.1;

const words = (lock: string) => `${lock.slice(0, -1)} ${lock.slice(-1)}`;

/** The six freedoms of the frame, each open or locked and by which datum; the part stands in the new frame while this is open. */
export function SixLocks({ parameters, on }: { parameters: Record<string, unknown>; on: string[] | null }) {
  const { projectId, store, viewport } = useWorkspace();
  const preview = useView((s) => s.framePreview);
  // Why these datums set no frame.
  const [problem, setProblem] = useState<string | null>(null);
  const key = JSON.stringify({ parameters, on });
  useEffect(() => {
    const { parameters: wanted, on: some } = JSON.parse(key) as { parameters: Record<string, unknown>; on: string[] | null };
    if (!wanted.first) {
      setProblem(null);
      store.setState({ framePreview: null, movePreview: null });
      return;
    }
    let live = true;
    api
      .framePreview(projectId, wanted)
      .then((framePreview) => {
        if (!live) return;
        setProblem(null);
        // What moves alone is shown moved; else the whole project is shown in the new frame.
        store.setState({ framePreview: { ...framePreview, whole: !some }, movePreview: some ? { itemIds: some, transform: framePreview.transform } : null });
      })
      .catch((problem: Error) => {
        if (live) {
          store.setState({ framePreview: null, movePreview: null });
          setProblem(problem.message);
        }
      });
    return () => {
      live = false;
    };
  }, [key, projectId, store]);
  useEffect(() => () => store.setState({ framePreview: null, movePreview: null }), [store]);
  const [sides, setSides] = useState<Record<StandardView, string> | null>(null);
  // Drawn once the view has taken the frame over, which the same change of the store makes it do.
  useEffect(() => {
    setSides(preview ? (viewport.current?.sixSides(112, 84) ?? null) : null);
  }, [preview, viewport]);
  // Below its own base the part would stand on its head.
  const [isOnHead, setOnHead] = useState(false);
  useEffect(() => {
    const box = preview?.whole && parameters.first ? (viewport.current?.boundsOf() ?? null) : null;
    const top = box ? box.centre[2] + box.size[2] / 2 : 0;
    setOnHead(box !== null && preview?.locks.shiftZ != null && top < HEAD * box.size[2]);
  }, [preview, parameters.first, viewport]);
  const open = preview ? LOCKS.filter((l) => preview.locks[l] === null).length : 6;
  const aside = document.getElementById('view-aside');
  const locks = (
    <div className="grid w-66 gap-1 rounded-box bg-base-100/90 p-2">
      <ul className="grid grid-cols-3 gap-1" aria-label="Six locks">
        {LOCKS.map((lock) => {
          const by = preview?.locks[lock] ?? null;
          const open = preview?.plusMinus[lock] ?? null;
          return (
            <li key={lock} className={`rounded-field border px-1.5 py-1 leading-tight ${by ? 'border-success' : 'border-neutral'}`} title={by ? `${words(lock)} is locked by ${by}` : `${words(lock)} is free`}>
              <span className="flex items-center gap-1">
                {by ? <Lock size={11} aria-label="locked" /> : <LockOpen size={11} aria-label="free" />}
                {words(lock)}
              </span>
              <span className="block truncate text-xs opacity-80">{by ?? 'free'}</span>
              {open === null ? null : (
                <span className="block text-xs opacity-80" title="What the fit of the datum leaves open, one standard deviation">
                  ± {lock.startsWith('turn') ? `${open.toFixed(3)}°` : `${open.toFixed(3)} mm`}
                </span>
              )}
            </li>
          );
        })}
      </ul>
      {sides ? (
        <div className="grid grid-cols-3 gap-1" role="group" aria-label="Six sides in the new frame">
          {SIDES.map((side) => (
            <figure key={side} className="rounded-field border border-neutral bg-base-300 text-center text-xs">
              <img src={sides[side]} alt={`The part from ${side === 'top' ? 'above' : side === 'bottom' ? 'below' : `the ${side}`}`} className="w-full" />
              <figcaption className="opacity-85">{side}</figcaption>
            </figure>
          ))}
        </div>
      ) : null}
      <p className={problem ? 'text-warning' : 'opacity-85'} aria-live="polite">
        {problem ?? (preview ? (open === 0 ? 'The frame is fully set. The view shows the part in it.' : `${open} still free. The view shows the part in the new frame.`) : 'Choose datums to see what each locks.')}
      </p>
      {isOnHead ? (
        <p className="text-warning" role="status">
          The part would stand on its head: nearly all of it lies below the first datum. If that is its base, flip it.
        </p>
      ) : null}
      {preview?.idle.map((why) => (
        <p key={why} className="text-warning">
          {why}
        </p>
      ))}
    </div>
  );
  return aside ? createPortal(locks, aside) : null;
}
