// Light or dark: the reader's choice, else the system's.
export type Theme = 'paper' | 'night' | 'system';
const KEY = 'stavok-theme';

export function chosenTheme(): Theme {
  const kept = localStorage.getItem(KEY);
  return kept === 'paper' || kept === 'night' ? kept : 'system';
}

export function applyTheme(theme: Theme = chosenTheme()): void {
  if (theme === 'system') {
    localStorage.removeItem(KEY);
    delete document.documentElement.dataset.theme;
  } else {
    localStorage.setItem(KEY, theme);
    document.documentElement.dataset.theme = theme;
  }
}
