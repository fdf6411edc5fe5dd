import { FarloError } from '#core/errors/index.ts';

const FREE_TRIES = 5;
const LONGEST_WAIT_MS = 36_000;
const REMEMBERED_MS = 3_600_000;
const MOST_WAITING = 4;

interface Known {
  failures: number[];
  /** The try before, so that tries of one name come one after the other. */
  last: Promise<void>;
  waiting: number;
}

/**
 * Slows guessing down without locking anybody out: after five wrong tries for a name within an hour each further
 * one waits, longer and longer, up to 36 s, which leaves a guesser a hundred tries an hour (OWASP ASVS 4.0, 2.2.1).
 * A right password is always accepted after its wait, and forgets the wrong ones.
 */
export class SignInThrottle {
  private readonly known = new Map<string, Known>();

  /** @param now milliseconds @param wait resolves after milliseconds; both given by tests */
  constructor(
    private readonly now: () => number = Date.now,
    private readonly wait: (ms: number) => Promise<void> = (ms) =>
      new Promise((done) => setTimeout(done, ms)),
  ) {}

  /**
   * Runs a try when it is its turn.
   * @param check resolves to undefined when the password is wrong
   * @throws FarloError when too many tries of this name wait already
   */
  async run<T>(name: string, check: () => Promise<T | undefined>): Promise<T | undefined> {
    const entry = this.entry(name);
    if (entry.waiting >= MOST_WAITING)
      throw new FarloError(
        'access.too-many',
        'Too many tries at once for this address. Wait a minute, then try again.',
      );
    entry.waiting++;
    const before = entry.last;
    let done: () => void = () => undefined;
    entry.last = new Promise((resolve) => (done = resolve));
    try {
      await before;
      const delay = this.delayOf(entry);
      if (delay > 0) await this.wait(delay);
      const result = await check();
      if (result === undefined) entry.failures.push(this.now());
      else entry.failures = [];
      return result;
    } finally {
      entry.waiting--;
      done();
    }
  }

  /** Names that are remembered. */
  get size(): number {
    return this.known.size;
  }

  /** Milliseconds the next try of a name waits. */
  delay(name: string): number {
    return this.delayOf(this.entry(name));
  }

  private delayOf(entry: Known): number {
    const since = this.now() - REMEMBERED_MS;
    entry.failures = entry.failures.filter((at) => at > since);
    const over = entry.failures.length - FREE_TRIES;
    return over < 0 ? 0 : Math.min(LONGEST_WAIT_MS, 1000 * 2 ** over);
  }

  private entry(name: string): Known {
    let entry = this.known.get(name);
    if (!entry) {
      this.forget();
      this.known.set(name, (entry = { failures: [], last: Promise.resolve(), waiting: 0 }));
    }
    return entry;
  }

  /** Names nobody tried for an hour go, so that made-up ones do not fill the memory. */
  private forget(): void {
    if (this.known.size < 1000) return;
    const since = this.now() - REMEMBERED_MS;
    for (const [name, { failures, waiting }] of this.known)
      if (waiting === 0 && !failures.some((at) => at > since)) this.known.delete(name);
  }
}
