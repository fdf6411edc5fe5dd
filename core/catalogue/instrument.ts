import { CONTROLLER, type ArticulationId } from '../music/index.ts';
import { SOURCE, type Zone } from './zone.ts';

/** Families in score order. */
export const FAMILIES = ['winds', 'brass', 'percussion', 'keys', 'choir', 'strings', 'other'] as const;
export type Family = (typeof FAMILIES)[number];

/** Two-letter tag of a family, never the only sign of it. */
export const FAMILY_TAG: Record<Family, string> = {
  winds: 'Wd',
  brass: 'Br',
  percussion: 'Pc',
  keys: 'Ky',
  choir: 'Ch',
  strings: 'St',
  other: 'Ot',
};

export type InstrumentKind = 'section' | 'solo' | 'ensemble';

/** A microphone position: every note of the instrument exists once per position. */
export interface Position {
  id: string;
  name: string;
}

/** One playing technique of an instrument. */
export interface Articulation {
  /** Its id in the house vocabulary, unique within the instrument. */
  id: ArticulationId;
  /** The name its maker gave it. */
  name: string;
  /** Keyswitch its maker suggests. */
  suggestedKey?: number;
  zones: Zone[];
}

/** How one recording is kept: interleaved frames of 16-bit integers or 32-bit floats. */
export interface SampleInfo {
  /** SHA-256 of the audio and its format, hex. */
  id: string;
  frames: number;
  channels: 1 | 2;
  rate: number;
  format: 'i16' | 'f32';
  /** Where its bytes lie: pack id, then byte offsets of its head and of the rest. */
  pack: string;
  headOffset: number;
  headFrames: number;
  tailOffset: number;
}

/** A file of samples of one articulation and position: all heads first, then all the rests. */
export interface PackInfo {
  id: string;
  articulation: ArticulationId;
  position: string;
  headBytes: number;
  bytes: number;
}

/** Everything the engine and the views need to know of an instrument; the audio itself is in the packs. */
export interface Instrument {
  id: string;
  name: string;
  family: Family;
  kind: InstrumentKind;
  players: number;
  positions: Position[];
  articulations: Articulation[];
  samples: Record<string, SampleInfo>;
  packs: Record<string, PackInfo>;
  /** Where controllers rest that mean something to it alone, 0 … 127 by number; elsewhere where they rest for all. */
  rests?: Record<number, number>;
  /** How loud its maker sends it to a hall, −60 … 0 dB, where that is told: tracks that are new begin there. */
  hallSendDb?: number;
}

/** Bytes one frame of a sample takes. */
export function frameBytes(sample: Pick<SampleInfo, 'channels' | 'format'>): number {
  return sample.channels * (sample.format === 'i16' ? 2 : 4);
}

/** Sample ids an articulation needs for the given positions, each once. */
export function samplesOf(articulation: Articulation, positions: readonly string[]): Set<string> {
  const ids = new Set<string>();
  for (const zone of articulation.zones)
    for (const position of positions) {
      const ref = zone.samples[position];
      if (ref) ids.add(ref.sample);
    }
  return ids;
}

/** Memory in bytes of a set of samples: frames × channels × bytes. */
export function memoryBytes(instrument: Instrument, ids: Iterable<string>): number {
  let bytes = 0;
  for (const id of ids) {
    const sample = instrument.samples[id];
    bytes += sample.frames * frameBytes(sample);
  }
  return bytes;
}

/** Lowest and highest key with an attack zone, both inclusive; undefined when there is none. */
export function playableRange(articulation: Articulation): { low: number; high: number } | undefined {
  let low = 128;
  let high = -1;
  for (const zone of articulation.zones)
    if (zone.role === 'attack') {
      low = Math.min(low, zone.keyLow);
      high = Math.max(high, zone.keyHigh);
    }
  return high < 0 ? undefined : { low, high };
}

/** Playable range over all articulations. */
export function instrumentRange(
  instrument: Pick<Instrument, 'articulations'>,
): { low: number; high: number } | undefined {
  const ranges = instrument.articulations.map(playableRange).filter((range) => range !== undefined);
  if (ranges.length === 0) return undefined;
  return { low: Math.min(...ranges.map((r) => r.low)), high: Math.max(...ranges.map((r) => r.high)) };
}

/** How many loudness layers and takes an articulation has: distinct dynamics windows or velocity ranges, most takes. */
export function layersAndTakes(articulation: Articulation): { layers: number; takes: number } {
  const attacks = articulation.zones.filter((zone) => zone.role === 'attack');
  const fadeOf = (zone: Zone) =>
    zone.fades.find((f) => f.controller === CONTROLLER.dynamics || f.controller === SOURCE.velocity);
  // What is ridden instead of crossfaded, for example a tone without vibrato, is no layer beside the others.
  const counted = attacks.some(fadeOf) ? attacks.filter(fadeOf) : attacks;
  const layers = new Set<string>();
  for (const zone of counted) {
    const fade = fadeOf(zone);
    layers.add(`${zone.velocityLow}-${zone.velocityHigh}-${fade?.inLow ?? 0}-${fade?.outHigh ?? 127}`);
  }
  const takes = attacks.reduce((most, zone) => Math.max(most, zone.takes), 1);
  return { layers: Math.max(1, layers.size), takes };
}
