import { SOURCE, type Articulation, type Instrument, type Loop, type Zone } from '../catalogue/index.ts';
import { ENGINE_RATE, dbToGain, exp10 } from '../units/index.ts';
import { ownSoundMemory, type SoundMemory } from './memory/index.ts';

/** Audio of one sample as it lies in memory, interleaved; shared between threads. */
export interface SampleAudio {
  data: Int16Array | Float32Array;
  channels: 1 | 2;
  frames: number;
  rate: number;
  /** Byte in the sound memory of the page where `data` begins; absent where it lies elsewhere. */
  address?: number;
}

/** What a sample of each of the kernel's formats is multiplied with to be in full scale 1. */
export const FORMAT_SCALE = [1 / 32_768, 1 / 32_768, 1, 1] as const;

/** A sample in the page's memory, as other threads are told of it. */
export interface PlacedAudio {
  address: number;
  /** Whether it lies there as floats; otherwise as 16-bit numbers. */
  wide: boolean;
  channels: 1 | 2;
  frames: number;
  rate: number;
}

/** A sample as the engine plays it, in the memory it works in. */
export interface Source extends SampleAudio {
  address: number;
  /** 16-bit or float, one channel or two: 0 … 3. */
  format: 0 | 1 | 2 | 3;
}

function sourceOf(audio: SampleAudio | PlacedAudio, sound: SoundMemory): Source {
  const { channels, frames, rate } = audio;
  const stereo = channels === 2;
  const data = 'data' in audio ? audio.data : viewOf(audio, sound);
  const address = audio.address ?? sound.placeOf(data);
  const format = data instanceof Float32Array ? (stereo ? 3 : 2) : stereo ? 1 : 0;
  return { data, channels, frames, rate, address, format };
}

function viewOf({ address, wide, channels, frames }: PlacedAudio, sound: SoundMemory): SampleAudio['data'] {
  const { buffer } = sound.memory;
  return wide
    ? new Float32Array(buffer, address, frames * channels)
    : new Int16Array(buffer, address, frames * channels);
}

/** A zone made ready for rendering: everything numeric that can be known before a note is played. */
export interface PreparedZone {
  zone: Zone;
  /** By position index of the instrument; null where nothing is loaded. */
  sources: (Source | null)[];
  /** By position index: its sample rate against the zone's, which is the highest of them; frames of the zone × factor are frames of the source. */
  factors: Float64Array;
  /** Frames until the longest source ends; 0 while none is loaded. */
  lengthFrames: number;
  loop: Loop | null;
  gain: number;
  /** First of its samples, by which layers know each other, and its power as measured at import. */
  sample: string;
  power: number;
  /** Multiplies the pitch ratio: sample rate against engine rate. */
  rateRatio: number;
  /** Zones of one chain share envelope, filter, moves and group, and so can be blended in one voice. */
  chain: number;
}

/** Zones of one articulation, found by key. */
export interface PreparedArticulation {
  id: string;
  attack: PreparedZone[][];
  release: PreparedZone[][];
  transition: PreparedZone[][];
  /** Numbers of its chains, by what their zones share. */
  chains: Map<string, number>;
}

export interface PreparedInstrument {
  id: string;
  positions: string[];
  articulations: PreparedArticulation[];
  /** Controllers that any zone listens to. */
  controllers: number[];
  /** Where controllers rest that mean something to it alone. */
  rests: Readonly<Record<number, number>>;
  /** Zones that use a sample, each with the position's index. */
  users: Map<string, { zone: PreparedZone; position: number }[]>;
}

/**
 * Builds the engine's lookup tables. Allocates; call it outside `render`.
 * @param audio loaded samples by id; zones none of whose samples are there stay silent until `attachAudio`
 * @param sound the memory of the engine that is to play it
 */
export function prepareInstrument(
  instrument: Instrument,
  audio: ReadonlyMap<string, SampleAudio>,
  sound: SoundMemory = ownSoundMemory(),
): PreparedInstrument {
  const prepared = emptyInstrument(instrument);
  instrument.articulations.forEach((articulation, index) =>
    addZones(prepared, index, articulation.zones, instrument.samples),
  );
  attachAudio(prepared, audio, sound);
  return prepared;
}

/** Tables without a zone, to which `addZones` adds some at a time. @param instrument its articulations may lack zones */
export function emptyInstrument(
  instrument: Pick<Instrument, 'id' | 'positions' | 'articulations' | 'rests'>,
): PreparedInstrument {
  return {
    id: instrument.id,
    positions: instrument.positions.map((position) => position.id),
    articulations: instrument.articulations.map(emptyArticulation),
    controllers: [],
    rests: instrument.rests ?? {},
    users: new Map(),
  };
}

function emptyArticulation({ id }: Articulation): PreparedArticulation {
  const byKey = () => Array.from({ length: 128 }, (): PreparedZone[] => []);
  return { id, attack: byKey(), release: byKey(), transition: byKey(), chains: new Map() };
}

/**
 * Adds zones of one articulation behind those it has. An instrument made ready part by part, in order, is the same as one made ready
 * at once.
 * @param samples what is known of their samples, by id
 */
export function addZones(
  prepared: PreparedInstrument,
  index: number,
  zones: readonly Zone[],
  samples: Instrument['samples'],
): void {
  const controllers = new Set(prepared.controllers);
  for (const zone of zones) {
    for (const fade of zone.fades) controllers.add(fade.controller);
    for (const modulation of zone.modulations) controllers.add(modulation.controller);
    for (const gate of zone.gates ?? []) controllers.add(gate.controller);
    for (const lfo of zone.lfos ?? []) if (lfo.controller !== undefined) controllers.add(lfo.controller);
    addZone(prepared, prepared.articulations[index], zone, samples);
  }
  prepared.controllers = [...controllers].filter((number) => number < SOURCE.bend).sort((a, b) => a - b);
}

/**
 * Puts samples that have arrived where they are played from; null takes one away. Cheap enough for the audio thread.
 * @param sound the memory they lie in, or are copied into where they have no address
 */
export function attachAudio(
  prepared: PreparedInstrument,
  audio: Iterable<readonly [string, SampleAudio | PlacedAudio | null]>,
  sound: SoundMemory = ownSoundMemory(),
): void {
  for (const [id, sample] of audio) {
    const source = sample && sourceOf(sample, sound);
    for (const { zone, position } of prepared.users.get(id) ?? []) {
      zone.sources[position] = source;
      measureLength(zone);
    }
  }
}

function measureLength(ready: PreparedZone): void {
  const { sources, zone } = ready;
  let rate = ready.rateRatio * ENGINE_RATE;
  for (const source of sources) if (source && source.rate > rate) rate = source.rate;
  ready.rateRatio = rate / ENGINE_RATE;
  let longest = 0;
  for (let p = 0; p < sources.length; p++) {
    const source = sources[p];
    if (!source) continue;
    ready.factors[p] = source.rate / rate;
    longest = Math.max(longest, Math.round(source.frames / ready.factors[p]));
  }
  ready.lengthFrames = Math.min(longest, zone.endFrame ?? longest);
  const { loop } = zone;
  ready.loop = loop && loop.end > loop.start && loop.end <= ready.lengthFrames ? loop : null;
}

function addZone(
  { positions, users }: PreparedInstrument,
  { chains, ...byRole }: PreparedArticulation,
  zone: Zone,
  samples: Instrument['samples'],
): void {
  const sign = chainSign(zone);
  const chain = chains.get(sign) ?? chains.size;
  chains.set(sign, chain);
  const ready = prepareZone(zone, samples, positions, chain);
  positions.forEach((id, position) => {
    const ref = zone.samples[id];
    if (!ref) return;
    const list = users.get(ref.sample);
    if (list) list.push({ zone: ready, position });
    else users.set(ref.sample, [{ zone: ready, position }]);
  });
  for (let key = Math.max(0, zone.keyLow); key <= Math.min(127, zone.keyHigh); key++)
    byRole[zone.role][key].push(ready);
}

/** What zones must share to be blended in one voice, as text. */
function chainSign(zone: Zone): string {
  const { envelope, moves, lfos, cutoffHz, resonanceDb, filter, group, offBy, offSeconds } = zone;
  const { polyphony, keyPolyphony, oneShot } = zone;
  const filtering = zone.modulations.filter((m) => m.target === 'cutoffCents' || m.target === 'resonanceDb');
  const shared = [envelope, moves, lfos, cutoffHz, resonanceDb, filter, group, offBy, offSeconds, filtering];
  return JSON.stringify([...shared, polyphony, keyPolyphony, oneShot]);
}

function prepareZone(
  zone: Zone,
  samples: Instrument['samples'],
  positions: readonly string[],
  chain: number,
): PreparedZone {
  // The rate is known before any audio is here, so that a position that comes alone is not mistaken for the finest.
  const refs = Object.values(zone.samples);
  const rates = refs.map((ref) => samples[ref.sample]?.rate ?? 0);
  return {
    zone,
    sources: positions.map(() => null),
    factors: new Float64Array(positions.length).fill(1),
    lengthFrames: 0,
    loop: null,
    gain: dbToGain(zone.gainDb),
    sample: refs[0]?.sample ?? '',
    power: exp10((refs[0]?.levelDb ?? 0) / 10),
    rateRatio: Math.max(0, ...rates) / ENGINE_RATE,
    chain,
  };
}
