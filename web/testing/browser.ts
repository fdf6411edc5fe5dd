import 'fake-indexeddb/auto';

/** Locks of a browser, as far as Farlo uses them: held until their callback's promise settles. */
class FakeLocks {
  private readonly queues = new Map<string, Promise<unknown>>();
  readonly held = new Set<string>();

  request(name: string, run: () => Promise<unknown> | void): Promise<unknown> {
    const before = this.queues.get(name) ?? Promise.resolve();
    const done = before.then(async () => {
      this.held.add(name);
      await run();
      this.held.delete(name);
    });
    this.queues.set(name, done);
    return done;
  }

  query(): Promise<{ held: { name: string }[] }> {
    return Promise.resolve({ held: [...this.held].map((name) => ({ name })) });
  }
}

/** Locks that tests may look at, or let go as a closed tab would. */
export const locks = new FakeLocks();
const store = new Map<string, string>();

/** Text that is kept for the next visit, as a browser does. */
export const localStorageFake = {
  getItem: (key: string) => store.get(key) ?? null,
  setItem: (key: string, value: string) => void store.set(key, value),
  removeItem: (key: string) => void store.delete(key),
  clear: () => store.clear(),
};

/** Where `location.assign` was sent. */
export const assigned: string[] = [];

// Packages that behave otherwise on a server look for it.
Object.assign(globalThis, {
  window: globalThis,
  localStorage: localStorageFake,
  location: {
    assign: (path: string) => void assigned.push(path),
    pathname: '/',
    origin: 'http://farlo.test',
  },
});
Object.defineProperty(globalThis, 'navigator', { value: { locks }, configurable: true });
