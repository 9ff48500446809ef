import { LogOut, Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { csrfHeaders } from '../../api/client';
import { applyTheme, storedTheme } from '../../ui/theme';

const signOut = async () => {
  await fetch('/sign-out', { method: 'POST', headers: csrfHeaders() });
  window.location.assign('/sign-in');
};

export function AccountMenu() {
  const [theme, setTheme] = useState(storedTheme());
  const other = theme === 'kiln' ? 'limestone' : 'kiln';
  const name = document.querySelector<HTMLMetaElement>('meta[name=user-name]')?.content ?? '';
  return (
    <div className="flex items-center gap-1">
      <a className="opacity-80 mr-1 max-w-28 truncate hover:underline" href="/account" title="Your account: where you are signed in">
        {name}
      </a>
      <button
        type="button"
        className="btn btn-ghost btn-square btn-sm"
        aria-label={`Switch to the ${other} theme`}
        title={`Switch to the ${other} theme`}
        onClick={() => {
          applyTheme(other);
          setTheme(other);
        }}
      >
        {theme === 'kiln' ? <Sun size={16} aria-hidden /> : <Moon size={16} aria-hidden />}
      </button>
      <button type="button" className="btn btn-ghost btn-square btn-sm" aria-label="Sign out" title="Sign out" onClick={() => void signOut()}>
        <LogOut size={16} aria-hidden />
      </button>
    </div>
  );
}
