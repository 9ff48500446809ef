import { useEffect, useMemo } from 'react';
import type { Trial } from '../../api/types';
import { useView, useWorkspace } from '../../state/context';
import { shareBelow } from './shareBelow';

/** Leaves out of the view what a rebuilt body would lose at this support, without solving anything again. */
export function SupportPreview({ trial, least }: { trial: Trial; least: number }) {
  const { data, store } = useWorkspace();
  const shown = useView((s) => s.showTrial);
  const ids = (trial.bodies ?? [])
    .map((b) => b.id)
    .filter((id) => !data.snapshot.bodies.some((b) => b.id === id))
    .join(' ');
  const thin = useMemo(() => ({ share: shown ? least : 0, itemIds: ids.split(' ') }), [ids, shown, least]);
  useEffect(() => store.setState({ thin }), [store, thin]);
  useEffect(() => () => store.setState({ thin: { share: 0, itemIds: [] } }), [store]);
  const share = shareBelow((trial.step.figures?.after.below as number[] | undefined) ?? [], least);
  return <p aria-live="polite">{share === 0 ? 'The whole surface stays at this support.' : `At this support ${(100 * share).toFixed(1)} % of the faces are taken off; the view leaves them out.`}</p>;
}
