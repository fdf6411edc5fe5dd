import { useEffect } from 'react';

/** Hook: names the page after what it shows, for tabs, history and bookmarks. */
export function usePageTitle(...parts: readonly (string | undefined)[]): void {
  const title = [...parts.filter((part) => part), 'Farlo'].join(' · ');
  useEffect(() => {
    document.title = title;
  }, [title]);
}
