import type { HallResponse } from '#core/dsp/index.ts';
import type { Instrument } from '#core/catalogue/index.ts';
import type { EngineEvent, Rendering, SampleAudio } from '#core/engine/index.ts';
import type { HallMix, TrackMix } from '#core/mixing/index.ts';
import type { FeedChange, LiveEvent } from '#core/performance/index.ts';
import { HARBOUR_HALL, hallResponse } from '#core/rooms/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import workletUrl from './engine.worklet.ts?worker&url';
import type { EngineTrackSetup, FromEngine, ToEngine } from './messages.ts';
import { pageMemory, shareRoom } from './page-memory.ts';

type StateMessage = Extract<FromEngine, { kind: 'state' }>;

/** An instrument with what of it can be heard, by sample id. */
interface Heard {
  instrument: Instrument;
  audio: ReadonlyMap<string, SampleAudio>;
}

/** The engine in the audio thread, as the page drives it. It sleeps until something is to be heard. */
class SoundHost {
  private context: AudioContext | undefined;
  private node: AudioWorkletNode | undefined;
  private starting: Promise<void> | undefined;
  private readonly waiting: ToEngine[] = [];
  private readonly listeners = new Set<(state: StateMessage) => void>();
  private captured: ((sound: { left: Float32Array; right: Float32Array }) => void) | undefined;
  private timed: ((milliseconds: Float32Array) => void) | undefined;
  private response: HallResponse | undefined;
  private readonly told = new Map<string, Heard>();
  private readonly passing = new Map<number, () => void>();
  private passes = 0;
  /** Bytes of room given for tracks so far. */
  private trackRoom = 0;

  /** Why nothing can be heard, or undefined. */
  trouble: string | undefined;

  /** The shared hall's response, made once. */
  get hall(): HallResponse {
    this.response ??= hallResponse(HARBOUR_HALL);
    return this.response;
  }

  /** Wakes the audio thread; must follow a press of the user's. */
  async wake(): Promise<void> {
    this.starting ??= this.start();
    await this.starting;
    if (this.context?.state === 'suspended') await this.context.resume();
  }

  /** Everything the engine reports. */
  listen(listener: (state: StateMessage) => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  /** Tells the engine what is loaded of an instrument: the instrument itself once, then only what is new or gone. */
  setInstrument({ instrument, audio }: Heard): void {
    let known = this.told.get(instrument.id);
    if (known?.instrument !== instrument) {
      known = { instrument, audio: new Map() };
      this.send({ kind: 'instrument', instrument: withoutEnvelopes(instrument) });
    }
    const news = new Map<string, SampleAudio | null>();
    for (const [id, sample] of audio) if (known.audio.get(id) !== sample) news.set(id, sample);
    for (const id of known.audio.keys()) if (!audio.has(id)) news.set(id, null);
    this.told.set(instrument.id, { instrument, audio });
    if (news.size > 0) this.send({ kind: 'audio', instrumentId: instrument.id, audio: news });
  }

  /** Tells the engine that samples are no longer there. @returns when nothing of them is read any more */
  forget(ids: readonly string[]): Promise<void> {
    if (!this.node) {
      this.send({ kind: 'gone', ids, number: 0 });
      return Promise.resolve();
    }
    const number = ++this.passes;
    this.send({ kind: 'gone', ids, number });
    return new Promise((resolve) => this.passing.set(number, resolve));
  }

  setTracks(tracks: EngineTrackSetup[]): void {
    try {
      this.giveRoom(tracks);
    } catch (error) {
      // Without memory for sound everything else works; whoever presses Play is told.
      this.fail((error as Error).message);
      return;
    }
    this.send({ kind: 'tracks', tracks });
  }

  /** Sees to it that the engine has room for tracks. */
  private giveRoom(tracks: readonly EngineTrackSetup[]): void {
    const needed = tracks.reduce((sum, { mix }) => sum + trackBytes(mix), 0);
    if (needed <= this.trackRoom) return;
    const bytes = needed - this.trackRoom + SPARE_BYTES;
    const from = pageMemory().allocate(bytes);
    this.trackRoom += bytes;
    this.send({ kind: 'room', room: { from, to: from + bytes } });
  }

  setHallMix(mix: HallMix): void {
    this.send({ kind: 'hallMix', mix });
  }

  async play(events: EngineEvent[]): Promise<void> {
    await this.wake();
    // A cue and a phrase that is listened to do not sound together.
    this.send({ kind: 'quiet' });
    this.send({ kind: 'play', events });
  }

  /** What comes after what was told. */
  feed(events: EngineEvent[]): void {
    if (events.length > 0) this.send({ kind: 'feed', events });
  }

  /** What takes the place of what some tracks were told. */
  change(change: FeedChange): void {
    this.send({ kind: 'replan', ...change });
  }

  /** How many voices may sound at once. */
  setVoiceLimit(voices: number): void {
    this.send({ kind: 'limit', voices });
  }

  stop(): void {
    this.send({ kind: 'stop' });
  }

  async live(events: LiveEvent[]): Promise<void> {
    if (events.length === 0) return;
    await this.wake();
    this.send({ kind: 'live', events });
  }

  /** Lets go of everything on one track and drops what was still to come there. */
  hush(track: number): void {
    this.send({ kind: 'hush', track });
  }

  /** Hands renderings over, so that they can be heard by name. */
  setRenderings(renderings: Map<string, Rendering>): void {
    this.send({ kind: 'renderings', renderings });
  }

  /** Forgets all renderings but these. */
  keepRenderings(names: string[]): void {
    this.send({ kind: 'keepRenderings', names });
  }

  /** Plays a rendering from a frame on. */
  async hear(name: string, place: number, repeat: boolean): Promise<void> {
    await this.wake();
    this.send({ kind: 'hear', name, place, repeat });
  }

  /** Goes over to another rendering at the same place, without a gap. */
  changeRendering(name: string): void {
    this.send({ kind: 'change', name });
  }

  /** Ends what is heard of a rendering. */
  quiet(): void {
    this.send({ kind: 'quiet' });
  }

  /** The next frames of playing as the worklet makes them; for tests and measurements of what is really heard. */
  capture(frames: number): Promise<{ left: Float32Array; right: Float32Array }> {
    this.send({ kind: 'capture', frames });
    return new Promise((resolve) => (this.captured = resolve));
  }

  /** Times the next blocks by a clock that something else keeps running in shared memory, in milliseconds each. */
  timeBlocks(clock: Float64Array, blocks: number): Promise<Float32Array> {
    this.send({ kind: 'clock', clock, blocks });
    return new Promise((resolve) => (this.timed = resolve));
  }

  /** Seconds of sound that the browser has taken so far. */
  get playedSeconds(): number {
    return this.context?.currentTime ?? 0;
  }

  private send(message: ToEngine): void {
    if (this.node) this.node.port.postMessage(message);
    else this.waiting.push(message);
  }

  private async start(): Promise<void> {
    try {
      const context = new AudioContext({ sampleRate: ENGINE_RATE, latencyHint: 'interactive' });
      await context.audioWorklet.addModule(workletUrl);
      const node = new AudioWorkletNode(context, 'farlo-engine', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: shareRoom(),
      });
      node.connect(context.destination);
      node.onprocessorerror = () =>
        this.fail('The audio engine has stopped. Load the page again; your work is kept.');
      node.port.onmessage = ({ data }: MessageEvent<FromEngine>) => {
        if (data.kind === 'state') for (const listener of this.listeners) listener(data);
        else if (data.kind === 'passed') {
          this.passing.get(data.number)?.();
          this.passing.delete(data.number);
        } else if (data.kind === 'captured') this.captured?.(data);
        else this.timed?.(data.milliseconds);
      };
      this.context = context;
      this.node = node;
      this.send({ kind: 'hall', response: this.hall });
      for (const message of this.waiting.splice(0)) this.send(message);
    } catch (error) {
      this.starting = undefined;
      this.fail(
        `The browser gives no sound (${(error as Error).message}). Check its sound settings and press again.`,
      );
      throw error;
    }
  }

  private fail(sentence: string): void {
    this.trouble = sentence;
  }
}

/** Room is given for this much more than is needed, so that not every new track asks for some. */
const SPARE_BYTES = 2 ** 20;
/** What a track takes at least, and each of its positions: a block, and a ring for a delay of up to 100 ms. */
const TRACK_BYTES = 2048;
const POSITION_BYTES = 2048;
const RING_BYTES = 2 * 65_536;

/** Room that a track takes in the engine at most. */
function trackBytes(mix: TrackMix): number {
  const positions = Object.values(mix.positions);
  const delayed = positions.filter(({ delayMs }) => delayMs > 0).length;
  return TRACK_BYTES + positions.length * POSITION_BYTES + delayed * RING_BYTES;
}

/** The engine has no use for what was measured; left out, an instrument is a fraction of its size. */
function withoutEnvelopes(instrument: Instrument): Instrument {
  return {
    ...instrument,
    articulations: instrument.articulations.map((articulation) => ({
      ...articulation,
      zones: articulation.zones.map((zone) => ({
        ...zone,
        samples: Object.fromEntries(
          Object.entries(zone.samples).map(([position, { sample }]) => [position, { sample }]),
        ),
      })),
    })),
  };
}

export const soundHost = new SoundHost();
