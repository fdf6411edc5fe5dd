import type { Instrument, Zone } from '#core/catalogue/index.ts';
import type { BounceOrder } from '#core/deliver/index.ts';
import { sortEvents, type EngineEvent, type SampleAudio } from '#core/engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '#core/mixing/index.ts';

const POSITIONS = ['a', 'b', 'c', 'd'];

/**
 * Four positions, two layers that cross at the middle of controller 1, a low-pass, a loop: everything on.
 * @param cutoffHz 0 for no low-pass
 */
export function heavyInstrument(
  layers = 2,
  cutoffHz = 4000,
): { instrument: Instrument; audio: Map<string, SampleAudio> } {
  const audio = new Map<string, SampleAudio>();
  const frames = 96_000;
  const zones = Array.from({ length: layers }, (_, layer): Zone => {
    const samples: Zone['samples'] = {};
    for (const position of POSITIONS) {
      const memory = new SharedArrayBuffer(frames * 4);
      const data = new Int16Array(memory);
      for (let i = 0; i < data.length; i++)
        data[i] = Math.round(8000 * Math.sin((i >> 1) * 0.05 * (1 + layer)) + 500 * Math.sin(i * 1.7));
      audio.set(`${layer} ${position}`, { data, channels: 2, frames, rate: 48_000 });
      samples[position] = { sample: `${layer} ${position}` };
    }
    const fade =
      layer === 0
        ? { inLow: 0, inHigh: 0, outLow: 20, outHigh: 108 }
        : { inLow: 20, inHigh: 108, outLow: 127, outHigh: 127 };
    return {
      role: 'attack',
      keyLow: 0,
      keyHigh: 127,
      rootKey: 69,
      velocityLow: 1,
      velocityHigh: 127,
      fades: layers > 1 ? [{ controller: 1, ...fade }] : [],
      modulations: [],
      take: 0,
      takes: 1,
      tuneCents: 0,
      gainDb: -30,
      velocityTrack: 0,
      startFrame: 0,
      loop: { start: 4000, end: 90_000 },
      oneShot: false,
      envelope: { attackSeconds: 0.01, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.2 },
      ...(cutoffHz === 0 ? {} : { cutoffHz }),
      samples,
    };
  });
  const instrument: Instrument = {
    id: 'heavy',
    name: 'Heavy',
    family: 'strings',
    kind: 'section',
    players: 1,
    positions: POSITIONS.map((id) => ({ id, name: id })),
    articulations: [{ id: 'long', name: 'long', zones }],
    samples: {},
    packs: {},
  };
  return { instrument, audio };
}

export const heavyMix: TrackMix = {
  gainDb: 0,
  pan: 0,
  muted: false,
  hallSendDb: -12,
  positions: Object.fromEntries(POSITIONS.map((id) => [id, PLAIN_POSITION])),
};

/** Events that hold `voices` notes on each track from the first frame on. */
export function heldVoices(tracks: number, voices: number): EngineEvent[] {
  const events: EngineEvent[] = [];
  for (let track = 0; track < tracks; track++) {
    events.push({ kind: 'control', frame: 0, track, controller: 1, value: 64 });
    for (let v = 0; v < voices; v++)
      events.push({
        kind: 'start',
        frame: v * 7,
        track,
        sound: track * 1000 + v + 1,
        articulation: 0,
        role: 'attack',
        key: 57 + ((v * 5) % 24),
        velocity: 90,
        fromKey: 0,
        take: 0,
        offsetSeconds: 0,
        fadeInSeconds: 0,
      });
  }
  return sortEvents(events);
}

/** Stops of all that events start, at a frame. */
export function letGo(events: readonly EngineEvent[], frame: number): EngineEvent[] {
  return events.flatMap((event): EngineEvent[] =>
    event.kind === 'start'
      ? [{ kind: 'stop', frame, track: event.track, sound: event.sound, fadeSeconds: 0.1, release: false }]
      : [],
  );
}

/** A bounce of held voices. */
export function heavyOrder(
  tracks: number,
  voices: number,
  seconds: number,
  hall: BounceOrder['hall'],
  made = heavyInstrument(),
): BounceOrder {
  return {
    instruments: [made],
    tracks: Array.from({ length: tracks }, () => ({ instrumentId: 'heavy', mix: heavyMix })),
    hall,
    hallMix: { earlyDb: 0, tailDb: 0 },
    events: heldVoices(tracks, voices),
    endFrame: seconds * 48_000,
  };
}
