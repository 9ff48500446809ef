import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Copy, Link2 } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { ReceiverLink } from '../../api/types';
import { useWorkspace } from '../../state/context';
import { day, since } from '../../ui/format';

/** Days that a link may be open: a week to look, a month to fetch, a quarter for slow houses. */
const DAYS = [7, 30, 90] as const;

/** Links by which the receiver of a delivery sees it without an account, who came by them, and a new one. */
export function ReceiverLinks({ artefact }: { artefact: string }) {
  const { projectId } = useWorkspace();
  const client = useQueryClient();
  const key = ['links', projectId];
  const { data } = useQuery({ queryKey: key, queryFn: () => api.links(projectId) });
  const [days, setDays] = useState<number>(DAYS[1]);
  const [made, setMade] = useState<string | null>(null);
  if (!data) return null;
  const links = data.links.filter((link) => link.artefact === artefact);
  const attempt = async (what: () => Promise<void>) => {
    try {
      await what();
    } catch (problem) {
      toast.error((problem as Error).message);
    }
  };
  const make = () =>
    attempt(async () => {
      const { url, ...rest } = await api.makeLink(projectId, artefact, days);
      client.setQueryData(key, rest);
      setMade(url);
    });
  const close = (link: ReceiverLink) =>
    attempt(async () => {
      client.setQueryData(key, await api.closeLink(projectId, link.id));
    });
  return (
    <div className="grid grid-cols-[minmax(0,1fr)] gap-1">
      {made ? (
        <div className="grid grid-cols-[minmax(0,1fr)] gap-1 rounded-field border border-success p-1.5">
          <p>Send this to the receiver. It is shown only now.</p>
          <div className="flex gap-1">
            <input className="input input-sm min-w-0 flex-1" readOnly aria-label="The link" value={made} onFocus={(e) => e.target.select()} />
            <button type="button" className="btn btn-sm btn-square" aria-label="Copy the link" title="Copy the link" onClick={() => void navigator.clipboard.writeText(made)}>
              <Copy size={13} aria-hidden />
            </button>
          </div>
        </div>
      ) : null}
      {data.allowed ? (
        <div className="flex gap-1">
          <button type="button" className="btn btn-sm flex-1 whitespace-nowrap" onClick={() => void make()}>
            <Link2 size={13} aria-hidden /> Receiver’s link
          </button>
          <select className="select select-sm w-28" aria-label="Open for" value={days} onChange={(e) => setDays(Number(e.target.value))}>
            {DAYS.map((n) => (
              <option key={n} value={n}>
                for {n} days
              </option>
            ))}
          </select>
        </div>
      ) : links.length === 0 ? null : (
        <p className="opacity-85">Links for receivers are turned off on this installation.</p>
      )}
      {links.map((link) => (
        <details key={link.id} className="rounded-field border border-neutral px-2 py-1" data-link={link.state}>
          <summary className="flex cursor-pointer items-center gap-2">
            <span className="flex-1">
              Link of {day(link.madeAt)}: {link.state === 'open' ? `open until ${day(link.expiresAt)}` : link.state}
            </span>
            <span className="opacity-85">{link.visits === 0 ? 'not opened yet' : link.visits === 1 ? '1 visit' : `${link.visits} visits`}</span>
          </summary>
          <ul className="mt-1">
            {link.latest.map((visit) => (
              <li key={visit.at + visit.took} className="opacity-85">
                {since(visit.at)}: {visit.took}, {visit.browser}
                {visit.address ? `, ${visit.address}` : ''}
              </li>
            ))}
          </ul>
          <p className="opacity-85">Made by {link.madeBy}.</p>
          {link.state === 'open' ? (
            <button type="button" className="btn btn-xs mt-1" onClick={() => void close(link)}>
              Close this link
            </button>
          ) : null}
        </details>
      ))}
    </div>
  );
}
