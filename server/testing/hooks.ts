import { beforeAll as runnersOwn, beforeEach } from 'vitest';

/**
 * Runs before the tests of a file. A setup that fails makes each of its tests fail: the runner's own hook would leave
 * them out, and whoever counts failed tests would not see it.
 */
export function beforeAll(setup: () => Promise<unknown> | void): void {
  let failure: { error: unknown } | undefined;
  runnersOwn(async () => {
    try {
      await setup();
    } catch (error) {
      failure = { error };
    }
  });
  beforeEach(() => {
    if (failure) throw failure.error;
  });
}
