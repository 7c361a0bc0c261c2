export type Theme = 'light' | 'dark' | 'system';

const key = 'posttide-theme';

export function readTheme(): Theme {
  const kept = localStorage.getItem(key);
  return kept === 'light' || kept === 'dark' ? kept : 'system';
}

/** Shows the theme and keeps the choice on this machine. */
export function applyTheme(theme: Theme) {
  localStorage.setItem(key, theme);
  const dark = theme === 'dark' || (theme === 'system' && matchMedia('(prefers-color-scheme: dark)').matches);
  document.documentElement.dataset.theme = dark ? 'dark' : 'light';
}
