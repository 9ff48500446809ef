import { LogOut } from 'lucide-react';
import { csrfHeaders } from '../../api/client';
import { ThemeButton } from '../../ui/ThemeButton';

const signOut = async () => {
  await fetch('/sign-out', { method: 'POST', headers: csrfHeaders() });
  window.location.assign('/sign-in');
};

export function AccountMenu() {
  const name = document.querySelector<HTMLMetaElement>('meta[name=user-name]')?.content ?? '';
  return (
    <div className="flex items-center gap-1">
      <a className="opacity-80 mr-1 max-w-28 truncate hover:underline" href="/account" title="Your account: where you are signed in">
        {name}
      </a>
      <ThemeButton />
      <button type="button" className="btn btn-ghost btn-square btn-sm" aria-label="Sign out" title="Sign out" onClick={() => void signOut()}>
        <LogOut size={16} aria-hidden />
      </button>
    </div>
  );
}
