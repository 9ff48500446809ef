import { Users, X } from 'lucide-react';
import { useState } from 'react';
import { api } from '../../api/client';
import { Dialog } from '../../ui/Dialog';
import { useWorkspace } from '../../state/context';

/** Who works on the project; its owner invites and takes out. */
export function MembersButton() {
  const { data, projectId, run } = useWorkspace();
  const [open, setOpen] = useState(false);
  const [email, setEmail] = useState('');
  const { members, owner, isOwner, here } = data.project;
  return (
    <>
      {here.length > 0 ? (
        <span className="max-w-36 truncate opacity-85" role="status" title={`Also here now: ${here.join(', ')}`}>
          {here.map((name) => name.split(' ')[0]).join(', ')} {here.length === 1 ? 'is' : 'are'} here
        </span>
      ) : null}
      <button type="button" className="btn btn-ghost btn-sm px-2" aria-label={`People on this project: ${1 + members.length}`} title="Who works on this project" onClick={() => setOpen(true)}>
        <Users size={16} aria-hidden /> {1 + members.length}
      </button>
      {open ? (
        <Dialog title="People on this project" onClose={() => setOpen(false)}>
          <ul className="grid gap-1">
            <li className="flex">
              <span className="flex-1">{owner}</span>
              <span className="opacity-80">owner</span>
            </li>
            {members.map((m) => (
              <li key={m.id} className="flex items-center">
                <span className="flex-1">
                  {m.name} <span className="opacity-80">{m.email}</span>
                </span>
                {isOwner ? (
                  <button type="button" className="btn btn-ghost btn-xs" aria-label={`Take ${m.name} out`} onClick={() => run(() => api.removeMember(projectId, m.id))}>
                    <X size={12} aria-hidden /> take out
                  </button>
                ) : null}
              </li>
            ))}
          </ul>
          {isOwner ? (
            <form
              className="mt-3 flex gap-2"
              onSubmit={(e) => {
                e.preventDefault();
                run(() => api.addMember(projectId, email).then(() => setEmail('')));
              }}
            >
              <input className="input flex-1" type="email" required aria-label="Address of the person" placeholder="name@orchard-press.example" value={email} onChange={(e) => setEmail(e.target.value)} />
              <button type="submit" className="btn btn-primary">
                Invite
              </button>
            </form>
          ) : (
            <p className="mt-3 opacity-85">Only {owner} can invite people.</p>
          )}
          <button type="button" className="btn btn-sm mt-4" onClick={() => setOpen(false)}>
            Close
          </button>
        </Dialog>
      ) : null}
    </>
  );
}
