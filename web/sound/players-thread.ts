import type { Instrument, Zone } from '#core/catalogue/index.ts';
import type { PlacedAudio, SampleAudio, Stretch } from '#core/engine/index.ts';
import type { TrackMix } from '#core/mixing/index.ts';
import type { EngineTrackSetup, ToPlayers } from './messages.ts';
import { LAST_STEPS_MS, pageMemory } from './page-memory.ts';

/** An instrument with what of it can be heard, by sample id. */
export interface Heard {
  instrument: Instrument;
  audio: ReadonlyMap<string, SampleAudio>;
}

/** Zones and recordings of one message: half a millisecond's work for whoever takes them. */
const ZONES_AT_ONCE = 48;
const AUDIO_AT_ONCE = 256;
/** Room is given for this much more than is needed, so that not every new track asks for some. */
const SPARE_BYTES = 2 ** 20;
/** What a track takes at least, and each of its positions: a block, and a ring for a delay of up to 100 ms. */
const TRACK_BYTES = 2048;
const POSITION_BYTES = 2048;
const RING_BYTES = 2 * 65_536;
/** Room that a track takes at most. */
function trackBytes({ instrumentId, mix }: { instrumentId: string | null; mix: TrackMix }): number {
  if (instrumentId === null) return TRACK_BYTES;
  const positions = Object.values(mix.positions);
  const delayed = positions.filter(({ delayMs }) => delayMs > 0).length;
  return TRACK_BYTES + positions.length * POSITION_BYTES + delayed * RING_BYTES;
}

/**
 * A thread that plays some tracks, and what it has been told of them: only instruments that it plays, part by part, and of their
 * recordings only what is new or gone.
 */
export class PlayersThread {
  private setup: readonly EngineTrackSetup[] = [];
  private readonly told = new Map<string, Heard>();
  private readonly queue: ToPlayers[] = [];
  /** Number of the message that is waited for before more is sent. */
  private awaited = 0;
  private numbers = 0;
  private readonly passing = new Map<number, () => void>();
  private readonly settling: (() => void)[] = [];
  private roomBytes = 0;
  private readonly rooms: number[] = [];
  private ended = false;

  /**
   * @param send takes messages to the thread
   * @param known what is loaded, by instrument id
   * @param paced whether large messages wait for each other: the audio thread has no time for many at once
   */
  constructor(
    private readonly send: (message: ToPlayers) => void,
    private readonly known: ReadonlyMap<string, Heard>,
    private readonly paced: boolean,
  ) {}

  /** Tells it its tracks. @throws FarloError `sound.memory` when there is no room for them */
  setTracks(setup: readonly EngineTrackSetup[]): void {
    this.giveRoom(setup);
    const before = this.setup;
    this.setup = setup;
    if (
      before.length === setup.length &&
      setup.every((one, i) => before[i].instrumentId === one.instrumentId)
    ) {
      // A hand on a ruler moves one mix; telling all of them each time would cost the audio thread more than a block.
      setup.forEach(({ instrumentId, mix }, track) => {
        if (instrumentId !== null && mix !== before[track].mix) this.send({ kind: 'mix', track, mix });
      });
      return;
    }
    const used = new Set(setup.flatMap(({ instrumentId }) => instrumentId ?? []));
    this.send({ kind: 'tracks', tracks: [...setup] });
    for (const id of this.told.keys())
      if (!used.has(id)) {
        this.told.delete(id);
        this.push({ kind: 'drop', instrumentId: id });
      }
    for (const id of used) this.update(id);
  }

  /** What is loaded of an instrument has changed. */
  update(id: string): void {
    const heard = this.known.get(id);
    if (!heard || !this.setup.some(({ instrumentId }) => instrumentId === id)) return;
    const { instrument, audio } = heard;
    let before = this.told.get(id);
    if (before?.instrument !== instrument) {
      before = { instrument, audio: new Map() };
      this.tellInstrument(instrument);
    }
    let news = new Map<string, PlacedAudio | null>();
    const add = (sample: string, placed: PlacedAudio | null) => {
      news.set(sample, placed);
      if (news.size < AUDIO_AT_ONCE) return;
      this.push({ kind: 'audio', instrumentId: id, audio: news });
      news = new Map();
    };
    for (const [sample, one] of audio) if (before.audio.get(sample) !== one) add(sample, placed(one));
    for (const sample of before.audio.keys()) if (!audio.has(sample)) add(sample, null);
    if (news.size > 0) this.push({ kind: 'audio', instrumentId: id, audio: news });
    this.told.set(id, heard);
  }

  private tellInstrument({ id, positions, articulations, samples, rests }: Instrument): void {
    this.push({
      kind: 'instrument',
      instrument: {
        id,
        positions,
        articulations: articulations.map((one) => ({ ...one, zones: [] })),
        ...(rests ? { rests } : {}),
      },
    });
    articulations.forEach((articulation, index) => {
      for (let from = 0; from < articulation.zones.length; from += ZONES_AT_ONCE)
        this.push({
          kind: 'zones',
          instrumentId: id,
          index,
          ...partOf(articulation.zones.slice(from, from + ZONES_AT_ONCE), samples),
        });
    });
    this.push({ kind: 'ready', instrumentId: id });
  }

  /** Tells it that samples are no longer there. @returns when it reads nothing of them any more */
  forget(ids: readonly string[]): Promise<void> {
    if (this.ended) return Promise.resolve();
    const number = ++this.numbers;
    const done = new Promise<void>((resolve) => this.passing.set(number, resolve));
    this.push({ kind: 'gone', ids, number });
    return done;
  }

  setLimit(voices: number): void {
    this.send({ kind: 'limit', voices });
  }

  /** Resolves when it knows everything there is to know; at once when it does. */
  async settled(): Promise<void> {
    if (this.awaited !== 0 || this.queue.length > 0)
      await new Promise<void>((resolve) => this.settling.push(resolve));
  }

  /** Hears that a message has taken effect. */
  passed(number: number): void {
    this.passing.get(number)?.();
    this.passing.delete(number);
    if (number === this.awaited) this.awaited = 0;
    this.flow();
  }

  /** The thread is no more: as soon as its last steps are over its room is free, and nothing waits for it. */
  end(over: () => void): void {
    this.ended = true;
    this.queue.length = 0;
    for (const resolve of this.settling.splice(0)) resolve();
    setTimeout(() => {
      over();
      for (const address of this.rooms) pageMemory().release(address);
      for (const resolve of this.passing.values()) resolve();
      this.passing.clear();
    }, LAST_STEPS_MS);
  }

  /** Everything of instruments goes one way, so that nothing overtakes what it depends on. */
  private push(message: ToPlayers): void {
    this.queue.push(message);
    this.flow();
  }

  private flow(): void {
    while (this.awaited === 0) {
      const message = this.queue.shift();
      if (!message) {
        for (const resolve of this.settling.splice(0)) resolve();
        return;
      }
      if (this.paced && (message.kind === 'zones' || message.kind === 'audio'))
        message.number = this.awaited = ++this.numbers;
      this.send(message);
    }
  }

  private giveRoom(setup: readonly EngineTrackSetup[]): void {
    const needed = setup.reduce((sum, track) => sum + trackBytes(track), 0);
    if (needed <= this.roomBytes) return;
    const bytes = needed - this.roomBytes + SPARE_BYTES;
    const from = pageMemory().allocate(bytes);
    this.rooms.push(from);
    this.roomBytes += bytes;
    const room: Stretch = { from, to: from + bytes };
    this.send({ kind: 'room', room });
  }
}

function placed({ data, address, channels, frames, rate }: SampleAudio): PlacedAudio {
  return {
    address: address ?? pageMemory().placeOf(data),
    wide: data instanceof Float32Array,
    channels,
    frames,
    rate,
  };
}

/** Zones without what the engine has no use for, what was measured of them; and what is known of their samples. */
function partOf(zones: readonly Zone[], samples: Instrument['samples']) {
  const ids = zones.flatMap((zone) => Object.values(zone.samples).map(({ sample }) => sample));
  return {
    zones: zones.map(withoutEnvelopes),
    samples: Object.fromEntries(ids.flatMap((id) => (samples[id] ? [[id, samples[id]]] : []))),
  };
}

function withoutEnvelopes(zone: Zone): Zone {
  const samples = Object.entries(zone.samples).map(([position, { sample, levelDb }]) => [
    position,
    { sample, levelDb },
  ]);
  return { ...zone, samples: Object.fromEntries(samples) as Zone['samples'] };
}
