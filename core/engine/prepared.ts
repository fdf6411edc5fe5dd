import { SOURCE, type Articulation, type Instrument, type Loop, type Zone } from '../catalogue/index.ts';
import { ENGINE_RATE, dbToGain } from '../units/index.ts';

/** Audio of one sample as it lies in memory, interleaved; shared between threads. */
export interface SampleAudio {
  data: Int16Array | Float32Array;
  channels: 1 | 2;
  frames: number;
  rate: number;
}

/** A zone made ready for rendering: everything numeric that can be known before a note is played. */
export interface PreparedZone {
  zone: Zone;
  /** By position index of the instrument; null where nothing is loaded. */
  sources: (SampleAudio | null)[];
  /** By position index: its sample rate against the zone's, which is the highest of them; frames of the zone × factor are frames of the source. */
  factors: Float64Array;
  lengthFrames: number;
  loop: Loop | null;
  gain: number;
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
}

export interface PreparedInstrument {
  id: string;
  positions: string[];
  articulations: PreparedArticulation[];
  /** Controllers that any zone listens to. */
  controllers: number[];
}

/**
 * Builds the engine's lookup tables. Allocates; call it outside `render`.
 * @param audio loaded samples by id; zones none of whose samples are there stay silent
 */
export function prepareInstrument(
  instrument: Instrument,
  audio: ReadonlyMap<string, SampleAudio>,
): PreparedInstrument {
  const positions = instrument.positions.map((position) => position.id);
  const controllers = new Set<number>();
  for (const articulation of instrument.articulations)
    for (const zone of articulation.zones) {
      for (const fade of zone.fades) controllers.add(fade.controller);
      for (const modulation of zone.modulations) controllers.add(modulation.controller);
      for (const gate of zone.gates ?? []) controllers.add(gate.controller);
      for (const lfo of zone.lfos ?? []) if (lfo.controller !== undefined) controllers.add(lfo.controller);
    }
  return {
    id: instrument.id,
    positions,
    articulations: instrument.articulations.map((a) => prepareArticulation(a, positions, audio)),
    controllers: [...controllers].filter((number) => number < SOURCE.bend).sort((a, b) => a - b),
  };
}

function prepareArticulation(
  articulation: Articulation,
  positions: readonly string[],
  audio: ReadonlyMap<string, SampleAudio>,
): PreparedArticulation {
  const byKey = () => Array.from({ length: 128 }, (): PreparedZone[] => []);
  const prepared: PreparedArticulation = {
    id: articulation.id,
    attack: byKey(),
    release: byKey(),
    transition: byKey(),
  };
  const chains = new Map<string, number>();
  for (const zone of articulation.zones) {
    const ready = prepareZone(zone, positions, audio);
    if (!ready) continue;
    const sign = chainSign(zone);
    const chain = chains.get(sign) ?? chains.size;
    chains.set(sign, chain);
    ready.chain = chain;
    for (let key = Math.max(0, zone.keyLow); key <= Math.min(127, zone.keyHigh); key++)
      prepared[zone.role][key].push(ready);
  }
  return prepared;
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
  positions: readonly string[],
  audio: ReadonlyMap<string, SampleAudio>,
): PreparedZone | undefined {
  const sources = positions.map((id) => audio.get(zone.samples[id]?.sample ?? '') ?? null);
  const rate = sources.reduce((highest, source) => Math.max(highest, source?.rate ?? 0), 0);
  if (rate === 0) return undefined;
  const factors = Float64Array.from(sources, (source) => (source ? source.rate / rate : 1));
  const longest = sources.reduce(
    (most, source, i) => Math.max(most, source ? Math.round(source.frames / factors[i]) : 0),
    0,
  );
  const lengthFrames = Math.min(longest, zone.endFrame ?? longest);
  const { loop } = zone;
  return {
    zone,
    sources,
    factors,
    lengthFrames,
    loop: loop && loop.end > loop.start && loop.end <= lengthFrames ? loop : null,
    gain: dbToGain(zone.gainDb),
    rateRatio: rate / ENGINE_RATE,
    chain: 0,
  };
}
