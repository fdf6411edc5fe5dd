import type { Articulation, Instrument, Zone } from '../catalogue/index.ts';
import type { SampleAudio, StartEvent } from '../engine/index.ts';
import { attackEnvelope, onsetOfEnvelope, packEnvelope } from '../measure/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE, midiToHertz } from '../units/index.ts';

/** Sines as instruments, for tests that want to know exactly what must sound. */

/** A stereo sine with a straight rise, 16 bits. */
export function sine(
  hz: number,
  seconds: number,
  level = 0.5,
  riseSeconds = 0.01,
  rate = ENGINE_RATE,
): SampleAudio {
  const frames = Math.round(seconds * rate);
  const data = new Int16Array(frames * 2);
  for (let i = 0; i < frames; i++) {
    const value = level * Math.min(1, i / (riseSeconds * rate)) * Math.sin((2 * Math.PI * hz * i) / rate);
    data[2 * i] = data[2 * i + 1] = Math.round(value * 32767);
  }
  return { data, channels: 2, frames, rate };
}

/** White noise of peak 1, the same for the same seed (xorshift). */
export function whiteNoise(frames: number, seed: number): Float32Array {
  let state = seed >>> 0 || 1;
  return Float32Array.from({ length: frames }, () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    state >>>= 0;
    return state / 2 ** 31 - 1;
  });
}

export const plainZone = (zone: Partial<Zone> & Pick<Zone, 'samples'>): Zone => ({
  role: 'attack',
  keyLow: 0,
  keyHigh: 127,
  rootKey: 69,
  velocityLow: 1,
  velocityHigh: 127,
  fades: [],
  modulations: [],
  take: 0,
  takes: 1,
  tuneCents: 0,
  gainDb: 0,
  velocityTrack: 0,
  startFrame: 0,
  oneShot: false,
  envelope: { attackSeconds: 0, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.05 },
  ...zone,
});

/** An instrument over given articulations and audio, with leads measured as an import would. */
export function instrumentOf(
  articulations: Articulation[],
  audio: ReadonlyMap<string, SampleAudio>,
  positions = ['mix'],
): Instrument {
  for (const articulation of articulations)
    for (const zone of articulation.zones)
      for (const ref of Object.values(zone.samples)) {
        const sample = audio.get(ref.sample);
        if (!sample || zone.role !== 'attack') continue;
        const envelope = attackEnvelope(toFloats(sample), sample.rate, zone.startFrame);
        Object.assign(ref, {
          envelope: packEnvelope(envelope),
          leadSeconds: onsetOfEnvelope(envelope),
          levelDb: -10,
        });
      }
  return {
    id: 'test',
    name: 'Test section',
    family: 'strings',
    kind: 'section',
    players: 1,
    positions: positions.map((id) => ({ id, name: id })),
    articulations,
    samples: {},
    packs: {},
  };
}

export function toFloats(sample: SampleAudio): Float32Array[] {
  const scale = sample.data instanceof Int16Array ? 1 / 32768 : 1;
  return Array.from({ length: sample.channels }, (_, c) =>
    Float32Array.from({ length: sample.frames }, (_v, i) => sample.data[i * sample.channels + c] * scale),
  );
}

export const mixOf = (positions: readonly string[]): TrackMix => ({
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -60,
  positions: Object.fromEntries(positions.map((id) => [id, PLAIN_POSITION])),
});

/** A sine instrument with a looped long, four staccato takes, and recorded moves between any two keys an octave apart at most. */
export function sineInstrument(): { instrument: Instrument; audio: Map<string, SampleAudio> } {
  const audio = new Map<string, SampleAudio>([['long', sine(440, 2, 0.5, 0.06)]]);
  const long = plainZone({ samples: { mix: { sample: 'long' } }, loop: { start: 48000, end: 48000 + 4800 } });
  const shorts: Zone[] = [];
  for (let take = 0; take < 4; take++) {
    audio.set(`short ${take}`, sine(440, 0.3, 0.5, 0.004 + take * 0.004));
    shorts.push(plainZone({ samples: { mix: { sample: `short ${take}` } }, take, takes: 4, oneShot: true }));
  }
  const moves: Zone[] = [];
  for (let interval = -12; interval <= 12; interval++) {
    if (interval === 0) continue;
    audio.set(`move ${interval}`, move(interval));
    moves.push(
      plainZone({
        role: 'transition',
        interval,
        oneShot: true,
        samples: { mix: { sample: `move ${interval}`, leadSeconds: 0.15, levelDb: -10 } },
      }),
    );
  }
  const articulations: Articulation[] = [
    {
      id: 'connected',
      name: 'connected',
      zones: [{ ...long, samples: { mix: { sample: 'long' } } }, ...moves],
    },
    { id: 'long', name: 'long', zones: [long] },
    { id: 'staccato', name: 'staccato', zones: shorts },
  ];
  return { instrument: instrumentOf(articulations, audio), audio };
}

/** A recorded move to 440 Hz whose pitch changes after 0.15 s. */
function move(interval: number): SampleAudio {
  const frames = Math.round(0.5 * ENGINE_RATE);
  const data = new Int16Array(frames * 2);
  let phase = 0;
  for (let i = 0; i < frames; i++) {
    phase += (2 * Math.PI * midiToHertz(i < 0.15 * ENGINE_RATE ? 69 - interval : 69)) / ENGINE_RATE;
    data[2 * i] = data[2 * i + 1] = Math.round(0.5 * 32767 * Math.sin(phase));
  }
  return { data, channels: 2, frames, rate: ENGINE_RATE };
}

/** A start of the first articulation's A4 on track 0. */
export const startEvent = (more: Partial<StartEvent> = {}): StartEvent => ({
  kind: 'start',
  frame: 0,
  track: 0,
  sound: 1,
  articulation: 0,
  role: 'attack',
  key: 69,
  velocity: 100,
  fromKey: 69,
  take: 0,
  offsetSeconds: 0,
  fadeInSeconds: 0,
  ...more,
});
