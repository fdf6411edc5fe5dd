import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { FarloError } from '#core/errors/index.ts';
import { packPath, stampFor, type WrittenPack } from './pack-writer.ts';

/** What is known of a pack beside its file. */
export interface PackFacts {
  bytes: number;
  /** Names of the libraries that play from it. */
  libraries: string[];
}

type State = 'whole' | 'missing' | 'short' | 'changed';

const SENTENCES: Record<Exclude<State, 'whole'>, (library: string) => string> = {
  missing: (library) => `Recordings of ${library} are no longer on the disk.`,
  short: (library) => `A file with recordings of ${library} was cut off.`,
  changed: (library) =>
    `Recordings of ${library} are not what was stored: the disk or somebody changed them.`,
};
const REMEDY = 'They are not played. Put the file back from a backup, or take the library in again.';

/**
 * Looks at each pack as a whole before the first of it is read after the start: its bytes must give its name. What this server has
 * just written, and nobody has touched since, was named by its bytes already.
 */
export class CheckedPacks {
  private readonly known = new Map<string, { stamp: string; bytes: number; state: Promise<State> }>();
  private readonly bad = new Map<string, string>();

  /** @param factsOf what the database says of a pack; undefined when it knows none */
  constructor(
    private readonly dataFolder: string,
    private readonly factsOf: (id: string) => Promise<PackFacts | undefined>,
  ) {}

  /** Why packs cannot be played, by pack id, as far as they were looked at. */
  get trouble(): ReadonlyMap<string, string> {
    return this.bad;
  }

  /** Notes packs that were written just now. */
  trust(written: readonly WrittenPack[]): void {
    for (const { id, bytes, stamp } of written)
      this.known.set(id, { stamp, bytes, state: Promise.resolve<State>('whole') });
  }

  /** Makes sure that a pack is what was stored. @returns its bytes @throws FarloError in words, naming the library */
  async require(id: string): Promise<number> {
    // A pack that was whole and lies there untouched is whole: nobody is asked, as hundreds are read at a time.
    const known = this.known.get(id);
    if (
      known &&
      !this.bad.has(id) &&
      known.stamp === (await this.stampOf(id)) &&
      (await known.state) === 'whole'
    )
      return known.bytes;
    const facts = await this.factsOf(id);
    const state = await this.stateOf(id, facts?.bytes ?? 0);
    if (state === 'whole') {
      this.bad.delete(id);
      return facts?.bytes ?? 0;
    }
    const sentence = SENTENCES[state](
      facts?.libraries.map((name) => `“${name}”`).join(' and ') || 'a library',
    );
    this.bad.set(id, sentence);
    throw new FarloError(state === 'missing' ? 'sample.missing' : 'sample.damaged', `${sentence} ${REMEDY}`, {
      record: id,
    });
  }

  private async stampOf(id: string): Promise<string | undefined> {
    const found = await stat(packPath(this.dataFolder, id)).catch(() => undefined);
    return found && stampFor(found);
  }

  private async stateOf(id: string, bytes: number): Promise<State> {
    const path = packPath(this.dataFolder, id);
    const found = await stat(path).catch(() => undefined);
    if (!found) return 'missing';
    if (found.size < bytes) return 'short';
    const stamp = stampFor(found);
    const known = this.known.get(id);
    if (known?.stamp === stamp) return known.state;
    const state = digestOf(path).then((digest): State => (digest === id ? 'whole' : 'changed'));
    this.known.set(id, { stamp, bytes, state });
    // A file that could not be read now may be readable the next time.
    state.catch(() => this.known.delete(id));
    return state;
  }
}

/** SHA-256 of a file, hex. */
async function digestOf(path: string): Promise<string> {
  const hash = createHash('sha256');
  for await (const chunk of createReadStream(path, { highWaterMark: 1 << 20 })) hash.update(chunk as Buffer);
  return hash.digest('hex');
}
