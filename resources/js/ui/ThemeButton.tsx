import { Moon, Sun } from 'lucide-react';
import { useState } from 'react';
import { applyTheme, storedTheme } from './theme';

/** Switches to the other theme, and remembers it. */
export function ThemeButton() {
  const [theme, setTheme] = useState(storedTheme());
  const other = theme === 'kiln' ? 'limestone' : 'kiln';
  return (
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
  );
}
