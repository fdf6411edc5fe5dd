import { get, set } from 'idb-keyval';

/** What was kept under a name in this browser; undefined when nothing was, or when the browser keeps nothing. */
export async function readUnsent<T>(name: string): Promise<T | undefined> {
  try {
    return await get<T>(name);
  } catch {
    return undefined;
  }
}

/** Keeps a value in this browser where that is possible; some private windows allow nothing to be kept. */
export async function keepUnsent(name: string, value: unknown): Promise<void> {
  try {
    await set(name, value);
  } catch {
    // Edits still go to the server; only a closed page with an absent server would lose them.
  }
}
