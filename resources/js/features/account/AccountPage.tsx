import { useQuery, useQueryClient } from '@tanstack/react-query';
import { Monitor } from 'lucide-react';
import { useState } from 'react';
import { toast } from 'sonner';
import { api } from '../../api/client';
import type { Account, SpaceTaken } from '../../api/types';
import { bytes, since } from '../../ui/format';
import { AccountMenu } from './AccountMenu';

/** Where the person is signed in; and, for who looks after the installation, what takes its space. */
export function AccountPage() {
  const { data, error } = useQuery({ queryKey: ['account'], queryFn: api.account });
  return (
    <div className="min-h-full bg-base-200">
      <header className="flex items-center gap-3 border-b border-neutral bg-base-100 px-6 h-13">
        <a href="/" className="flex items-center gap-3 font-semibold text-base flex-1">
          <img src="/icon.svg" alt="" className="h-6" />
          Emberstone
        </a>
        <AccountMenu />
      </header>
      <main className="mx-auto max-w-3xl p-6 grid gap-8">
        <div>
          <a className="link" href="/">
            Back to the projects
          </a>
          <h1 className="text-xl font-semibold mt-3">{data?.name ?? 'Account'}</h1>
          <p className="opacity-80">{data?.email}</p>
        </div>
        {error ? (
          <p role="alert" className="text-error">
            {(error as Error).message}
          </p>
        ) : null}
        {data ? <Sessions account={data} /> : null}
        {data?.settings ? <Settings account={data} /> : null}
        {data?.space ? <Space space={data.space} /> : null}
      </main>
    </div>
  );
}

function Sessions({ account }: { account: Account }) {
  const client = useQueryClient();
  const end = async (name: string) => {
    try {
      const { sessions } = await api.endSession(name);
      client.setQueryData(['account'], { ...account, sessions });
      toast.success('That session has ended. Remembered machines ask for the password again.');
    } catch (problem) {
      toast.error((problem as Error).message);
      await client.invalidateQueries({ queryKey: ['account'] });
    }
  };
  return (
    <section aria-labelledby="sessions">
      <h2 id="sessions" className="font-semibold mb-2">
        Where you are signed in
      </h2>
      <ul className="rounded-box border border-neutral bg-base-100 divide-y divide-neutral">
        {account.sessions.map((session) => (
          <li key={session.name} data-session className="flex items-center gap-3 px-4 py-2">
            <Monitor size={16} aria-hidden />
            <span className="flex-1">
              {session.browser}
              <span className="block opacity-80">
                {session.address ?? 'address not known'} · {session.isThis ? 'this one' : `last seen ${since(session.seenAt)}`}
              </span>
            </span>
            {session.isThis ? null : (
              <button type="button" className="btn btn-sm" onClick={() => void end(session.name)}>
                End it
              </button>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

function Settings({ account }: { account: Account }) {
  const [allowed, setAllowed] = useState(account.settings?.receiverLinks ?? false);
  const set = async (receiverLinks: boolean) => {
    // Shown at once, and taken back if the server will not.
    setAllowed(receiverLinks);
    try {
      await api.setSettings({ receiverLinks });
    } catch (problem) {
      setAllowed(!receiverLinks);
      toast.error((problem as Error).message);
    }
  };
  return (
    <section aria-labelledby="settings">
      <h2 id="settings" className="font-semibold mb-2">
        What this installation allows
      </h2>
      <label className="flex items-start gap-3 rounded-box border border-neutral bg-base-100 px-4 py-3">
        <input type="checkbox" className="checkbox checkbox-sm mt-0.5" checked={allowed} onChange={(e) => void set(e.target.checked)} />
        <span>
          Links for receivers
          <span className="block opacity-80">Whoever has the link of a delivery sees that delivery and takes its files without an account, until the link expires or is closed. Turned off, links that are open stop at once.</span>
        </span>
      </label>
    </section>
  );
}

function Space({ space }: { space: SpaceTaken }) {
  const largest = Math.max(...space.projects.map((project) => project.bytes), 1);
  return (
    <section aria-labelledby="space">
      <h2 id="space" className="font-semibold">
        What takes the space of this installation
      </h2>
      <p className="opacity-80 mb-2">
        {Math.round(100 * space.used)} % of the disk is in use, {bytes(space.free)} are free. Deleting a project frees its space at once.
      </p>
      <div className="grid gap-4">
        <table className="table table-sm rounded-box border border-neutral bg-base-100">
          <tbody>
            {space.things.map((thing) => (
              <tr key={thing.what}>
                <th scope="row" className="font-normal">
                  {thing.what}
                </th>
                <td className="text-right tabular-nums whitespace-nowrap">{bytes(thing.bytes)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {space.projects.length === 0 ? null : (
          <table className="table table-sm rounded-box border border-neutral bg-base-100">
            <thead>
              <tr className="text-base-content text-xs">
                <th scope="col">Project</th>
                <th scope="col">Owner</th>
                <th scope="col">Share</th>
                <th scope="col" className="text-right">
                  Geometry
                </th>
              </tr>
            </thead>
            <tbody>
              {space.projects.map((project) => (
                <tr key={`${project.owner} ${project.name} ${project.bytes}`}>
                  <th scope="row" className="font-normal max-w-60 truncate" title={project.name}>
                    {project.name}
                  </th>
                  <td>{project.owner}</td>
                  <td className="w-40">
                    <div aria-hidden className="h-2 rounded-sm bg-primary" style={{ width: `${(100 * project.bytes) / largest}%` }} />
                  </td>
                  <td className="text-right tabular-nums whitespace-nowrap">{bytes(project.bytes)}</td>
                </tr>
              ))}
            </tbody>
          </table>
        )}
      </div>
    </section>
  );
}
