import { useEffect } from 'react';
import { Lock, LockOpen } from 'lucide-react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import { useView, useWorkspace } from '../../workspace/context';

const LOCKS = ['shiftX', 'shiftY', 'shiftZ', 'turnX', 'turnY', 'turnZ'] as const;
const words = (lock: string) => `${lock.slice(0, -1)} ${lock.slice(-1)}`;

/** The six freedoms of the frame, each open or locked and by which datum; the part stands in the new frame while this is open. */
export function SixLocks({ parameters }: { parameters: Record<string, unknown> }) {
  const { projectId, store } = useWorkspace();
  const preview = useView((s) => s.framePreview);
  const key = JSON.stringify(parameters);
  useEffect(() => {
    const wanted = JSON.parse(key) as Record<string, unknown>;
    if (!wanted.first) {
      store.setState({ framePreview: null });
      return;
    }
    let live = true;
    api
      .framePreview(projectId, wanted)
      .then((framePreview) => live && store.setState({ framePreview }))
      .catch((problem: Error) => {
        if (live) {
          store.setState({ framePreview: null });
          toast.error(problem.message);
        }
      });
    return () => {
      live = false;
    };
  }, [key, projectId, store]);
  useEffect(() => () => store.setState({ framePreview: null }), [store]);
  const open = preview ? LOCKS.filter((l) => preview.locks[l] === null).length : 6;
  return (
    <div>
      <ul className="grid grid-cols-3 gap-1" aria-label="Six locks">
        {LOCKS.map((lock) => {
          const by = preview?.locks[lock] ?? null;
          return (
            <li key={lock} className={`rounded-field border px-1.5 py-1 leading-tight ${by ? 'border-success' : 'border-neutral'}`} title={by ? `${words(lock)} is locked by ${by}` : `${words(lock)} is free`}>
              <span className="flex items-center gap-1">
                {by ? <Lock size={11} aria-label="locked" /> : <LockOpen size={11} aria-label="free" />}
                {words(lock)}
              </span>
              <span className="block truncate text-xs opacity-80">{by ?? 'free'}</span>
            </li>
          );
        })}
      </ul>
      <p className="mt-1 opacity-85">{preview ? (open === 0 ? 'The frame is fully set. The view shows the part in it.' : `${open} still free. The view shows the part in the new frame.`) : 'Choose datums to see what each locks.'}</p>
    </div>
  );
}
