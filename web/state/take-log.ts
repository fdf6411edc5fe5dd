import { createStore, delMany, entries, set } from 'idb-keyval';
import type { PlayedMessage } from '#core/music/index.ts';
import { aliveTabs, TAB } from './tab.ts';

/** What is being recorded, and into what. */
export interface Recorded {
  id: string;
  userId: string;
  cueId: string;
  trackId: string;
  /** Ticks of the cue that are recorded. */
  fromTick: number;
  /** Null where it has no end. */
  toTick: number | null;
  /** Seconds of a round, where it is a loop; it goes on over them from round to round. */
  roundSeconds: number | null;
  replaces: boolean;
  /** Grid that notes are drawn to, ticks; 0 for none. */
  gridTicks: number;
}

/** A piece of a take: what came while the piece before it was being written. */
interface Kept {
  tab: string;
  take: Recorded;
  /** Messages before these. */
  from: number;
  messages: readonly PlayedMessage[];
}

let store: ReturnType<typeof createStore> | undefined;
const database = () => (store ??= createStore('farlo-takes', 'takes'));

/** Keeps a take in this browser while it is played, message by message, so that a page that dies takes nothing along. */
export class TakeLog {
  readonly messages: PlayedMessage[] = [];
  private readonly keys: string[] = [];
  private written = 0;
  private writing: Promise<void> | undefined;

  constructor(readonly take: Recorded) {}

  add(message: PlayedMessage): void {
    this.messages.push(message);
    this.writing ??= this.write();
  }

  /** One write at a time; what came meanwhile is in the next, so that a long take costs no more than a short one. */
  private async write(): Promise<void> {
    while (this.written < this.messages.length) {
      const from = this.written;
      const key = `${this.take.id} ${from}`;
      const kept: Kept = { tab: TAB, take: this.take, from, messages: this.messages.slice(from) };
      this.written = this.messages.length;
      this.keys.push(key);
      // Where the browser keeps nothing, a take lives as long as the page.
      await set(key, kept, database()).catch(() => undefined);
    }
    this.writing = undefined;
  }

  /** It is written into the cue, and kept here no longer. */
  async close(): Promise<void> {
    await this.writing;
    await delMany(this.keys, database()).catch(() => undefined);
  }
}

/** A take whose page is gone. */
export interface LeftTake {
  take: Recorded;
  messages: readonly PlayedMessage[];
  /** Under which its pieces are kept. */
  keys: readonly string[];
}

/**
 * Takes of a person in a cue that nobody records any more: of pages that are gone, and of this one when the cue was left meanwhile.
 * @param running id of the take that is being recorded here
 */
export async function leftTakes(
  userId: string,
  cueId: string,
  running: string | undefined,
): Promise<LeftTake[]> {
  const all = await entries<string, Kept>(database()).catch(() => []);
  const own = all.filter(([, { take }]) => take.userId === userId && take.cueId === cueId);
  if (own.length === 0) return [];
  const alive = await aliveTabs();
  const pieces = new Map<string, [key: string, kept: Kept][]>();
  for (const [key, kept] of own)
    if (kept.tab === TAB ? kept.take.id !== running : !alive.has(kept.tab))
      pieces.set(kept.take.id, [...(pieces.get(kept.take.id) ?? []), [key, kept]]);
  return [...pieces.values()].map((list) => {
    const inOrder = [...list].sort(([, a], [, b]) => a.from - b.from);
    return {
      take: inOrder[0][1].take,
      messages: inOrder.flatMap(([, { messages }]) => messages),
      keys: inOrder.map(([key]) => key),
    };
  });
}

/** Forgets a take that was left. */
export async function forgetTake({ keys }: LeftTake): Promise<void> {
  await delMany([...keys], database()).catch(() => undefined);
}
