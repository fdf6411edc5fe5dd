/** Runs what is asked under one key one after the other, in the order of asking. */
export class InTurn {
  private readonly last = new Map<string, Promise<unknown>>();

  /** @returns what `run` gives; when it fails, the next one of the key goes on all the same */
  async run<T>(key: string, run: () => Promise<T>): Promise<T> {
    const mine = (this.last.get(key) ?? Promise.resolve()).then(run, run);
    this.last.set(key, mine);
    try {
      return await mine;
    } finally {
      if (this.last.get(key) === mine) this.last.delete(key);
    }
  }

  /** How many keys have something under way. */
  get busy(): number {
    return this.last.size;
  }
}
