import { create } from 'zustand';

type Theme = 'light' | 'dark';
const KEY = 'farlo-theme';

function firstTheme(): Theme {
  const kept = localStorage.getItem(KEY);
  if (kept === 'light' || kept === 'dark') return kept;
  return matchMedia('(prefers-color-scheme: dark)').matches ? 'dark' : 'light';
}

/** Light or dark; remembered on this machine. */
export const useTheme = create<{ theme: Theme; toggle: () => void }>((set, get) => ({
  theme: firstTheme(),
  toggle: () => {
    const theme = get().theme === 'light' ? 'dark' : 'light';
    localStorage.setItem(KEY, theme);
    set({ theme });
  },
}));

/** Puts the theme on the page, now and whenever it changes: before whoever paints by its colours hears of it. */
export function keepTheme(): void {
  const show = ({ theme }: { theme: Theme }) => {
    document.documentElement.dataset.theme = theme;
  };
  show(useTheme.getState());
  useTheme.subscribe(show);
}
