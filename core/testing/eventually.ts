import { vi } from 'vitest';

/**
 * Waits until a check holds: as long as a busy machine may need, for a second is none.
 * @param check throws while it does not hold
 */
export const eventually = <T>(check: () => T | Promise<T>): Promise<T> =>
  vi.waitFor(check, { timeout: 30_000 });
