import { createStore, del, entries, set } from 'idb-keyval';
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

interface Kept {
  tab: string;
  take: Recorded;
  messages: readonly PlayedMessage[];
}

let store: ReturnType<typeof createStore> | undefined;
const database = () => (store ??= createStore('farlo-takes', 'takes'));

/** Keeps a take in this browser while it is played, message by message, so that a page that dies takes nothing along. */
export class TakeLog {
  readonly messages: PlayedMessage[] = [];
  private writing: Promise<void> | undefined;
  private isStale = false;

  constructor(readonly take: Recorded) {}

  add(message: PlayedMessage): void {
    this.messages.push(message);
    this.isStale = true;
    this.writing ??= this.write();
  }

  /** One write at a time; what came meanwhile is in the next. */
  private async write(): Promise<void> {
    while (this.isStale) {
      this.isStale = false;
      const kept: Kept = { tab: TAB, take: this.take, messages: [...this.messages] };
      // Where the browser keeps nothing, a take lives as long as the page.
      await set(this.take.id, kept, database()).catch(() => undefined);
    }
    this.writing = undefined;
  }

  /** It is written into the cue, and kept here no longer. */
  async close(): Promise<void> {
    await this.writing;
    await del(this.take.id, database()).catch(() => undefined);
  }
}

/** Takes of a person in a cue that pages left which are no longer there. */
export async function leftTakes(
  userId: string,
  cueId: string,
): Promise<{ take: Recorded; messages: readonly PlayedMessage[] }[]> {
  const all = await entries<string, Kept>(database()).catch(() => []);
  const own = all
    .map(([, kept]) => kept)
    .filter(({ take }) => take.userId === userId && take.cueId === cueId);
  if (own.length === 0) return [];
  const alive = await aliveTabs();
  return own.filter(({ tab }) => !alive.has(tab));
}

/** Forgets a take that was left. */
export async function forgetTake(id: string): Promise<void> {
  await del(id, database()).catch(() => undefined);
}
