import {
  AHEAD_BLOCKS,
  AheadWords,
  BLOCK,
  deal,
  dealAnew,
  MOST_WRITERS,
  PLACE_BYTES,
  PLACE_TRACKS,
  type EngineEvent,
  type GivenUp,
} from '#core/engine/index.ts';
import type { TrackMix } from '#core/mixing/index.ts';
import type { FeedChange } from '#core/performance/index.ts';
import { coresWanted } from './cores.ts';
import type { EngineTrackSetup, FromAhead, ToAhead } from './messages.ts';
import { pageMemory, shareRoom, takeRoomBack, type SharedRoom } from './page-memory.ts';
import { PlayersThread, type Heard } from './players-thread.ts';

/** Room of players without tracks. */
const PLAYERS_BYTES = 4 * 2 ** 20;
/** A worker that has written nothing for so many blocks that were read (half a second) is taken for dead. */
const DEAD_BLOCKS = 200;
/** A new one has so long to begin, with all its instruments to make ready: 5 s. */
const START_BLOCKS = 1875;
/** Who takes a dead worker's place begins so far ahead: 0.2 s. */
const REJOIN_BLOCKS = 75;
/** Replaced more often than this within a minute, a worker is given up. */
const MOST_REPLACED = 5;
/** How a track is told to those who do not play it. */
const NO_MIX: TrackMix = { gainDb: 0, pan: 0, muted: true, hallSendDb: -60, positions: {} };

interface AheadWorker {
  worker: Worker;
  thread: PlayersThread;
  shared: SharedRoom;
  /** Block from which on something is to be expected of it. */
  from: number;
}

/** What a performance is made of, for a worker that joins it. */
export type Rejoin = (tracks: readonly number[], frame: number) => EngineEvent[];

/** Workers that render what is planned ahead of the audio thread, each some of the tracks. */
export class RenderingAhead {
  readonly words = AheadWords.create();
  /** Addresses of the rings, for `PLACE_TRACKS` tracks each. */
  readonly rings: number[] = [];
  /** Which worker renders which track. */
  owners: readonly number[] = [];
  /** Workers that had to be replaced since the page was opened. */
  replaced = 0;
  private workers: AheadWorker[] = [];
  private setup: readonly EngineTrackSetup[] = [];
  private costs: number[] = [];
  private limit: number | undefined;
  private epoch = 0;
  private rejoin: Rejoin | undefined;
  private replacedAt: number[] = [];
  private toldRings = 0;

  /**
   * @param known what is loaded, by instrument id
   * @param ownersChanged told when tracks have other workers, or rings were added
   * @param givenUp told of voices that were given up
   * @param failed told when workers die again and again
   */
  constructor(
    private readonly known: ReadonlyMap<string, Heard>,
    private readonly ownersChanged: () => void,
    private readonly givenUp: (givenUp: GivenUp) => void,
    private readonly failed: (sentence: string) => void,
  ) {}

  get plays(): boolean {
    return this.rejoin !== undefined;
  }

  /** Workers there are, and the share of a core each has taken: microseconds so far, counting round at 2³². */
  get busy(): number[] {
    return this.workers.map((_, index) => this.words.busy(index));
  }

  /** The first frame of the performance that nobody can have rendered yet. */
  get nextFrame(): number {
    return this.words.epoch === this.epoch ? (this.words.read + AHEAD_BLOCKS) * BLOCK : 0;
  }

  /** @throws FarloError `sound.memory` when there is no room */
  setTracks(setup: readonly EngineTrackSetup[]): void {
    this.setup = setup;
    const before = this.rings.length;
    while (this.rings.length * PLACE_TRACKS < setup.length)
      this.rings.push(pageMemory().allocateClear(PLACE_BYTES));
    const added = this.rings.slice(before);
    // Before new workers come, who are told of all rings as they begin.
    if (added.length > 0)
      for (const { worker } of this.workers) tell(worker, { kind: 'rings', rings: added });
    this.sizeWorkers();
    this.deal(this.plays);
  }

  update(instrumentId: string): void {
    for (const { thread } of this.workers) thread.update(instrumentId);
  }

  async forget(ids: readonly string[]): Promise<void> {
    await Promise.all(this.workers.map(({ thread }) => thread.forget(ids)));
  }

  setLimit(voices: number): void {
    this.limit = voices;
    for (const { thread } of this.workers) thread.setLimit(voices);
  }

  /**
   * Begins a performance. @param rejoin what a worker is told that joins it later
   * @returns its number
   */
  play(events: readonly EngineEvent[], rejoin: Rejoin): number {
    this.epoch++;
    this.rejoin = rejoin;
    this.sizeWorkers();
    this.deal(false);
    for (const one of this.workers) one.from = 0;
    this.each((own, worker) =>
      tell(worker, { kind: 'play', epoch: this.epoch, events: events.filter(own), block: 0 }),
    );
    return this.epoch;
  }

  feed(events: readonly EngineEvent[]): void {
    this.each((own, worker) => {
      const some = events.filter(own);
      if (some.length > 0) tell(worker, { kind: 'feed', events: some });
    });
  }

  change({ frame, tracks, events }: FeedChange): void {
    this.each((own, worker, index) => {
      const some = tracks.filter((track) => this.owners[track] === index);
      if (some.length > 0) tell(worker, { kind: 'replan', frame, tracks: some, events: events.filter(own) });
    });
  }

  /** What hands ride on a track moves what is written there too, while it plays. */
  ride(events: readonly EngineEvent[]): void {
    if (!this.plays) return;
    this.each((own, worker) => {
      const some = events.filter((event) => event.kind === 'control' && own(event));
      if (some.length > 0) tell(worker, { kind: 'ride', events: some });
    });
  }

  rest(): void {
    this.rejoin = undefined;
    for (const { worker } of this.workers) tell(worker, { kind: 'rest' });
  }

  /** Looks whether all workers are alive. */
  watch(): void {
    if (!this.plays || this.words.epoch !== this.epoch) return;
    this.workers.forEach(({ from }, index) => {
      const written = this.words.epochOf(index) === this.epoch ? this.words.writtenBy(index) : 0;
      if (this.owners.includes(index) && this.words.read - Math.max(written, from) > DEAD_BLOCKS)
        this.replace(index);
    });
  }

  /** Ends a worker as if it had died; for tests. */
  kill(index: number): void {
    this.workers[index]?.worker.terminate();
  }

  /** Calls for each worker, with whether an event is for it. */
  private each(act: (own: (event: EngineEvent) => boolean, worker: Worker, index: number) => void): void {
    this.workers.forEach(({ worker }, index) =>
      act((event) => this.owners[event.track] === index, worker, index),
    );
  }

  /** As many workers as cores are wanted, one of which is the audio thread's; not changed while a performance is played. */
  private sizeWorkers(): void {
    const wanted = Math.max(1, Math.min(MOST_WRITERS, coresWanted() - 1));
    if (this.workers.length === wanted || this.setup.length === 0) return;
    if (this.workers.length > 0 && this.plays && this.words.epoch === this.epoch) return;
    for (const one of this.workers.splice(0)) this.end(one);
    this.owners = [];
    for (let index = 0; index < wanted; index++) this.workers.push(this.start(index));
  }

  private start(index: number): AheadWorker {
    const worker = new Worker(new URL('./ahead.worker.ts', import.meta.url), { type: 'module' });
    const shared = shareRoom(0, PLAYERS_BYTES);
    tell(worker, { kind: 'begin', words: this.words.words, index, memory: shared.memory, room: shared.room });
    if (this.rings.length > 0) tell(worker, { kind: 'rings', rings: [...this.rings] });
    const thread = new PlayersThread((message) => tell(worker, message), this.known, false);
    if (this.limit !== undefined) thread.setLimit(this.limit);
    worker.onmessage = ({ data }: MessageEvent<FromAhead>) => {
      if (data.kind === 'passed') thread.passed(data.number);
      else if (data.kind === 'givenUp') this.givenUp(data.givenUp);
      else data.costs.forEach((cost, track) => this.noteCost(track, cost));
    };
    worker.onerror = (event) => {
      event.preventDefault();
      if (this.workers[index]?.worker === worker) this.replace(index);
    };
    return { worker, thread, shared, from: 0 };
  }

  private noteCost(track: number, cost: number): void {
    if (cost > 0) this.costs[track] = 0.5 * (this.costs[track] ?? cost) + 0.5 * cost;
  }

  private end({ worker, thread, shared }: AheadWorker): void {
    worker.onmessage = worker.onerror = null;
    worker.terminate();
    thread.end(() => takeRoomBack(shared));
  }

  /** Puts another worker in the place of one that has died, and lets it join what is played. */
  private replace(index: number): void {
    const now = Date.now();
    this.replacedAt = [...this.replacedAt.filter((at) => now - at < 60_000), now];
    this.replaced++;
    this.end(this.workers[index]);
    if (this.replacedAt.length > MOST_REPLACED) {
      this.rest();
      this.failed('What renders the cue ahead keeps failing. Your work is kept; load the page again.');
      this.replacedAt = [];
    }
    this.workers[index] = this.start(index);
    this.seat(index);
    if (!this.rejoin) return;
    const tracks = this.tracksOf(index);
    const block = this.words.epoch === this.epoch ? this.words.read + REJOIN_BLOCKS : 0;
    this.workers[index].from = block + START_BLOCKS;
    tell(this.workers[index].worker, {
      kind: 'play',
      epoch: this.epoch,
      events: this.rejoin(tracks, block * BLOCK),
      block,
    });
  }

  private tracksOf(index: number): number[] {
    return this.owners.flatMap((owner, track) => (owner === index ? [track] : []));
  }

  /** Tells a worker which tracks are its own. */
  private seat(index: number): void {
    const { thread, worker } = this.workers[index];
    thread.setTracks(
      this.setup.map((track, i) =>
        this.owners[i] === index ? track : { ...track, instrumentId: null, mix: NO_MIX },
      ),
    );
    tell(worker, { kind: 'own', tracks: this.tracksOf(index) });
  }

  /** Deals tracks out by what they have cost. @param stay whether those that have a worker keep it */
  private deal(stay: boolean): void {
    const count = this.workers.length;
    if (count === 0) return;
    const costs = this.setup.map(({ instrumentId, handsOnly }, i) =>
      instrumentId === null || handsOnly ? 0 : 1 + (this.costs[i] ?? 0),
    );
    const before = this.owners;
    this.owners = stay ? deal(costs, count, before) : dealAnew(costs, count, before);
    const same = before.length === this.owners.length && before.every((owner, i) => owner === this.owners[i]);
    if (!same || this.toldRings !== this.rings.length) this.ownersChanged();
    this.toldRings = this.rings.length;
    this.workers.forEach((_, index) => this.seat(index));
  }
}

const tell = (worker: Worker, message: ToAhead) => worker.postMessage(message);
