import type { Instrument, Zone } from '../catalogue/index.ts';
import type { SampleAudio } from './prepared.ts';

/** Its microphone positions. */
export const HEAVY_POSITIONS = ['a', 'b', 'c', 'd'];

/**
 * Two layers that cross at the middle of controller 1, a low-pass, a loop: everything on. A machine is tried by it, and the bench
 * measures by it.
 * @param cutoffHz 0 for no low-pass; @param positions four unless given
 */
export function heavyInstrument(
  layers = 2,
  cutoffHz = 4000,
  positions: readonly string[] = HEAVY_POSITIONS,
): { instrument: Instrument; audio: Map<string, SampleAudio> } {
  const audio = new Map<string, SampleAudio>();
  const frames = 96_000;
  const zones = Array.from({ length: layers }, (_, layer): Zone => {
    const samples: Zone['samples'] = {};
    for (const position of positions) {
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
    positions: positions.map((id) => ({ id, name: id })),
    articulations: [{ id: 'long', name: 'long', zones }],
    samples: {},
    packs: {},
  };
  return { instrument, audio };
}
