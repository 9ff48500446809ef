export type Theme = 'kiln' | 'limestone';

export const storedTheme = (): Theme => (localStorage.getItem('theme') === 'limestone' ? 'limestone' : 'kiln');

export function applyTheme(theme: Theme): void {
  localStorage.setItem('theme', theme);
  document.documentElement.dataset.theme = theme;
}
