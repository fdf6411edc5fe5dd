import type { Instrument, Zone } from '#core/catalogue/index.ts';
import { Players, prepareInstrument, type EngineEvent, type SampleAudio } from '#core/engine/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';

/** How long a trial lasts. */
const TRIAL_MS = 2000;
/** Voices that are tried: two layers from four stereo positions, pitched, filtered. */
const VOICES = 32;
const POSITIONS = ['a', 'b', 'c', 'd'];
const BLOCK_MS = (128 / ENGINE_RATE) * 1000;
const TRACK = 0;

/** Milliseconds that one voice takes of a block's time on this machine. */
export interface CapacityAnswer {
  voiceMs: number;
  blockMs: number;
}

function trialInstrument(): { instrument: Instrument; audio: Map<string, SampleAudio> } {
  const audio = new Map<string, SampleAudio>();
  const frames = ENGINE_RATE;
  const zones = [0, 1].map((layer): Zone => {
    const samples: Zone['samples'] = {};
    for (const position of POSITIONS) {
      const data = new Int16Array(frames * 2);
      for (let i = 0; i < data.length; i++) data[i] = 8000 * Math.sin((i >> 1) * 0.05 * (1 + layer));
      audio.set(`${layer} ${position}`, { data, channels: 2, frames, rate: ENGINE_RATE });
      samples[position] = { sample: `${layer} ${position}` };
    }
    return {
      role: 'attack',
      keyLow: 0,
      keyHigh: 127,
      rootKey: 60,
      velocityLow: 1,
      velocityHigh: 127,
      fades: [],
      modulations: [],
      take: 0,
      takes: 1,
      tuneCents: 0,
      gainDb: -30,
      velocityTrack: 0,
      startFrame: 0,
      loop: { start: 1000, end: frames - 1000 },
      oneShot: false,
      envelope: { attackSeconds: 0.01, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.2 },
      cutoffHz: 4000,
      samples,
    };
  });
  const instrument: Instrument = {
    id: 'trial',
    name: 'Trial',
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

const started = (voice: number): EngineEvent => ({
  kind: 'start',
  frame: 0,
  track: TRACK,
  sound: voice,
  articulation: 0,
  role: 'attack',
  // A third of the notes of a library sound at their own pitch, the others near it.
  key: 59 + (voice % 3),
  velocity: 90,
  fromKey: 0,
  take: 0,
  offsetSeconds: voice * 0.01,
  fadeInSeconds: 0,
});

self.onmessage = () => {
  const { instrument, audio } = trialInstrument();
  const players = new Players();
  players.ensureTracks(1);
  players.tracks[TRACK].setInstrument(prepareInstrument(instrument, audio));
  const positions = Object.fromEntries(POSITIONS.map((id) => [id, PLAIN_POSITION]));
  players.tracks[TRACK].setMix({ gainDb: 0, pan: 0, muted: false, hallSendDb: -12, positions }, ENGINE_RATE);
  players.reset();
  players.setEvents(Array.from({ length: VOICES }, (_, voice) => started(voice)));
  const begun = performance.now();
  const times: number[] = [];
  for (let now = begun; now - begun < TRIAL_MS;) {
    players.render(() => undefined);
    const after = performance.now();
    times.push(after - now);
    now = after;
  }
  // The median: what else the machine did meanwhile does not count.
  const middle = times.sort((a, b) => a - b)[times.length >> 1];
  self.postMessage({ voiceMs: middle / VOICES, blockMs: BLOCK_MS } satisfies CapacityAnswer);
};
