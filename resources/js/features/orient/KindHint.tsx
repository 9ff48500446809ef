import { useQuery } from '@tanstack/react-query';
import { useEffect } from 'react';
import { api } from '../../api/client';
import { useWorkspace } from '../../state/context';

/** What the surface around a click is, beside the kind of datum that is made of it. */
export interface SurfaceKind {
  /** null while it is not known */
  looks: string | null;
  /** of the fit of that kind, mm */
  rms: number | undefined;
  /** the kind of the datum will not change by itself any more */
  isSettled: boolean;
}

/**
 * Gives a new datum the kind of the surface around a click, until the person chooses another.
 *
 * @param at the face that was clicked; null where none says the kind
 * @param seen the kind that was taken from a surface last
 */
export function useSurfaceKind(at: { body: string; face: number } | null, angle: number, kind: string, seen: string | undefined, take: (kind: string, seen: string) => void): SurfaceKind {
  const { projectId } = useWorkspace();
  const { data, isError } = useQuery({ queryKey: ['datum-kind', projectId, at, angle], queryFn: () => (at ? api.datumKind(projectId, { ...at, angle }) : null), enabled: at !== null, staleTime: Number.POSITIVE_INFINITY, retry: false });
  const looks = (at && data?.kind) ?? null;
  const isOpen = kind === (seen ?? 'plane');
  useEffect(() => {
    if (looks !== null && isOpen && looks !== kind) take(looks, looks);
  }, [looks, isOpen, kind, take]);
  return { looks, rms: looks === null ? undefined : data?.rms[looks], isSettled: at === null || !isOpen || isError || looks === kind };
}

/** Says that the kind was taken from the surface, or that the surface looks like another kind than the chosen one. */
export function KindHint({ surface: { looks, rms }, kind, seen, onKind }: { surface: SurfaceKind; kind: string; seen: string | undefined; onKind: (kind: string, seen: string) => void }) {
  if (looks === null || (looks === kind && seen !== looks)) return null;
  const within = rms === undefined ? '' : `, within ${rms.toFixed(3)} mm`;
  if (looks === kind) {
    return (
      <p data-kind-hint={looks}>
        The surface is a {looks}
        {within}, and so is the datum. Choose another kind above if you mean one.
      </p>
    );
  }
  return (
    <p className="flex items-center gap-2" data-kind-hint={looks}>
      <span className="flex-1">
        It looks like a {looks}
        {within}.
      </span>
      <button type="button" className="btn btn-xs font-normal" onClick={() => onKind(looks, looks)}>
        Make it a {looks}
      </button>
    </p>
  );
}
