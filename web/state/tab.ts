/** This page among all pages of the browser. */
export const TAB = crypto.randomUUID();

const LOCK = 'farlo-tab-';
let announced: Promise<void> | undefined;

/** Holds a lock for as long as the page lives, by which other tabs see that it does. */
function announce(): Promise<void> {
  announced ??= new Promise((resolve) => {
    void navigator.locks.request(LOCK + TAB, () => {
      resolve();
      return new Promise(() => undefined);
    });
  });
  return announced;
}

/** Tabs that are open now, this one included. Where the browser has no locks, only this one is known. */
export async function aliveTabs(): Promise<ReadonlySet<string>> {
  if (!('locks' in navigator)) return new Set([TAB]);
  await announce();
  const { held = [] } = await navigator.locks.query();
  return new Set(held.flatMap(({ name }) => (name?.startsWith(LOCK) ? [name.slice(LOCK.length)] : [])));
}
