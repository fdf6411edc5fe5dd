import type { HallResponse } from '#core/dsp/index.ts';
import type { ClickAt, EngineEvent, GivenUp, Rendering } from '#core/engine/index.ts';
import type { HallMix } from '#core/mixing/index.ts';
import type { FeedChange, LiveEvent } from '#core/performance/index.ts';
import { HARBOUR_HALL, hallResponse } from '#core/rooms/index.ts';
import { RenderingAhead, type Rejoin } from './ahead.ts';
import { AudioThread } from './audio-thread.ts';
import type { EngineTrackSetup, FromEngine } from './messages.ts';
import { LAST_STEPS_MS, shareRoom, takeRoomBack, type SharedRoom } from './page-memory.ts';
import { PlayersThread, type Heard } from './players-thread.ts';

type StateMessage = Extract<FromEngine, { kind: 'state' }>;

/** Nothing joins what somebody else planned: for events that are given as they are. */
const NOTHING_MORE: Rejoin = () => [];

/**
 * The engine as the page drives it: workers render what is planned, the audio thread adds it and plays what hands play. What it was told
 * is kept, so that a worker or an audio thread that begins anew knows all of it.
 */
class SoundHost {
  private readonly known = new Map<string, Heard>();
  private setup: readonly EngineTrackSetup[] = [];
  private hallMix: HallMix | undefined;
  private limit: number | undefined;
  private readonly renderings = new Map<string, Rendering>();
  private readonly listeners = new Set<(state: StateMessage) => void>();
  private captured: ((sound: { left: Float32Array; right: Float32Array }) => void) | undefined;
  private timed: ((milliseconds: Float32Array) => void) | undefined;
  private response: HallResponse | undefined;
  /** By which the hall that is set is known. */
  hallKey = '';
  private shared: SharedRoom | undefined;
  private hands: PlayersThread | undefined;
  private toldRings = 0;
  private givenUp: GivenUp | undefined;
  private readonly thread = new AudioThread(
    () => {
      const old = this.shared;
      if (old) setTimeout(() => takeRoomBack(old), LAST_STEPS_MS);
      this.shared = shareRoom();
      return { ...this.shared, words: this.ahead.words.words };
    },
    (again) => this.tellAll(again),
    (message) => this.heard(message),
    (sentence) => this.fail(sentence),
  );
  readonly ahead = new RenderingAhead(
    this.known,
    () => this.tellOwners(),
    (givenUp) => (this.givenUp = givenUp),
    (sentence) => this.fail(sentence),
  );

  /** Why nothing can be heard, or undefined. */
  trouble: string | undefined;
  /** Told of every trouble as it comes. */
  troubled: (sentence: string) => void = () => undefined;
  /** Called when the audio thread has begun anew: what played has to be played again. */
  revived: () => void = () => undefined;

  /** The shared hall's response; a plain one until another is set. */
  get hall(): HallResponse {
    this.response ??= hallResponse(HARBOUR_HALL);
    return this.response;
  }

  /** Goes over to another hall. @param key by which it is known */
  setHall(response: HallResponse, key: string): void {
    this.response = response;
    this.hallKey = key;
    this.thread.send({ kind: 'hall', response });
  }

  /** Wakes the audio thread; must follow a press of the user's. */
  wake(): Promise<void> {
    return this.thread.wake();
  }

  /** Everything the engine reports. */
  listen(listener: (state: StateMessage) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Tells whoever plays it what is loaded of an instrument. */
  setInstrument(heard: Heard): void {
    const { id } = heard.instrument;
    this.known.set(id, heard);
    this.hands?.update(id);
    this.ahead.update(id);
  }

  /** Tells everybody that samples are no longer there. @returns when nothing of them is read any more */
  async forget(ids: readonly string[]): Promise<void> {
    await Promise.all([this.hands?.forget(ids), this.ahead.forget(ids)]);
  }

  setTracks(tracks: readonly EngineTrackSetup[]): void {
    this.setup = tracks;
    try {
      this.ahead.setTracks(tracks);
      this.seatHands();
    } catch (error) {
      // Without memory for sound everything else works; whoever presses Play is told.
      this.trouble = (error as Error).message;
    }
  }

  private seatHands(): void {
    this.hands?.setTracks(
      this.setup.map((track) => (track.byHand ? track : { ...track, instrumentId: null })),
    );
  }

  setHallMix(mix: HallMix): void {
    this.hallMix = mix;
    this.thread.send({ kind: 'hallMix', mix });
  }

  /**
   * Begins a performance with its first events.
   * @param rejoin what it is made of from a frame on, for a worker that takes another's place
   */
  async play(events: readonly EngineEvent[], rejoin: Rejoin = NOTHING_MORE): Promise<void> {
    await this.wake();
    // A cue and a phrase that is listened to do not sound together.
    this.thread.send({ kind: 'quiet' });
    const epoch = this.ahead.play(events, rejoin);
    this.thread.send({ kind: 'play', epoch });
  }

  /** What comes after what was told. */
  feed(events: readonly EngineEvent[]): void {
    this.ahead.feed(events);
  }

  /** What takes the place of what some tracks were told. */
  change(change: FeedChange): void {
    this.ahead.change(change);
  }

  /** Clicks of the performance that come after those told before. @param gain how loud they are, linear */
  addClicks(clicks: ClickAt[], gain: number): void {
    if (clicks.length > 0) this.thread.send({ kind: 'clicks', clicks, gain });
  }

  /** Drops the clicks that are still to come. */
  dropClicks(): void {
    this.thread.send({ kind: 'noClicks' });
  }

  /** What is heard at a time of the page's clock, by the clock of the audio context, seconds; undefined without sound. */
  heardSeconds(atMs: number): number | undefined {
    return this.thread.heardSeconds(atMs);
  }

  /** How many voices may sound at once on each core. */
  setVoiceLimit(voices: number): void {
    this.limit = voices;
    this.hands?.setLimit(voices);
    this.ahead.setLimit(voices);
  }

  stop(): void {
    this.ahead.rest();
    this.thread.send({ kind: 'stop' });
  }

  async live(events: LiveEvent[]): Promise<void> {
    if (events.length === 0) return;
    await this.wake();
    // What is played before the instrument is there would be lost; it comes a moment late instead.
    await this.hands?.settled();
    this.thread.send({ kind: 'live', events });
    this.ahead.ride(events.flatMap(({ afterSeconds, event }) => (afterSeconds > 0 ? [] : [event])));
  }

  /** Controllers of what hands play alone, at once; what is planned has its own. */
  rideHands(events: readonly EngineEvent[]): void {
    this.thread.send({ kind: 'live', events: events.map((event) => ({ afterSeconds: 0, event })) });
  }

  /** Lets go of everything on one track and drops what was still to come there. */
  hush(track: number): void {
    this.thread.send({ kind: 'hush', track });
  }

  /** Hands renderings over, so that they can be heard by name. */
  setRenderings(renderings: Map<string, Rendering>): void {
    for (const [name, one] of renderings) this.renderings.set(name, one);
    this.thread.send({ kind: 'renderings', renderings });
  }

  /** Forgets all renderings but these. */
  keepRenderings(names: string[]): void {
    for (const name of this.renderings.keys()) if (!names.includes(name)) this.renderings.delete(name);
    this.thread.send({ kind: 'keepRenderings', names });
  }

  /** Plays a rendering from a frame on. */
  async hear(name: string, place: number, repeat: boolean): Promise<void> {
    await this.wake();
    this.thread.send({ kind: 'hear', name, place, repeat });
  }

  /** Goes over to another rendering at the same place, without a gap. */
  changeRendering(name: string): void {
    this.thread.send({ kind: 'change', name });
  }

  /** Ends what is heard of a rendering. */
  quiet(): void {
    this.thread.send({ kind: 'quiet' });
  }

  /** The next frames of playing as the worklet makes them; for tests and measurements of what is really heard. */
  async capture(frames: number): Promise<{ left: Float32Array; right: Float32Array }> {
    await this.wake();
    this.thread.send({ kind: 'capture', frames });
    return new Promise((resolve) => (this.captured = resolve));
  }

  /** Times the next blocks by a clock that something else keeps running in shared memory, in milliseconds each. */
  async timeBlocks(clock: Float64Array, blocks: number): Promise<Float32Array> {
    await this.wake();
    this.thread.send({ kind: 'clock', clock, blocks });
    return new Promise((resolve) => (this.timed = resolve));
  }

  /** Seconds of sound that the browser has taken so far. */
  get playedSeconds(): number {
    return this.thread.playedSeconds;
  }

  /** Tells an audio thread that has just begun everything that lasts. */
  private tellAll(again: boolean): void {
    const { thread } = this;
    this.hands?.end(() => undefined);
    const hands = new PlayersThread((message) => thread.send(message), this.known, true);
    this.hands = hands;
    thread.send({ kind: 'hall', response: this.hall });
    if (this.hallMix) thread.send({ kind: 'hallMix', mix: this.hallMix });
    if (this.limit !== undefined) hands.setLimit(this.limit);
    this.toldRings = 0;
    this.tellOwners();
    this.seatHands();
    thread.send({ kind: 'renderings', renderings: this.renderings });
    this.trouble = undefined;
    if (again) this.revived();
  }

  private tellOwners(): void {
    if (!this.thread.isThere) return;
    const { rings, owners } = this.ahead;
    this.thread.send({ kind: 'ahead', rings: rings.slice(this.toldRings), owners: [...owners] });
    this.toldRings = rings.length;
  }

  private heard(message: FromEngine): void {
    switch (message.kind) {
      case 'state': {
        this.ahead.watch();
        const state = { ...message, givenUp: message.givenUp ?? this.givenUp ?? null };
        this.givenUp = undefined;
        for (const listener of this.listeners) listener(state);
        break;
      }
      case 'passed':
        this.hands?.passed(message.number);
        break;
      case 'captured':
        this.captured?.(message);
        break;
      case 'timed':
        this.timed?.(message.milliseconds);
        break;
    }
  }

  private fail(sentence: string): void {
    this.trouble = sentence;
    this.troubled(sentence);
  }
}

export const soundHost = new SoundHost();
