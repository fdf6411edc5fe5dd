import {
  HEAVY_POSITIONS,
  heavyInstrument,
  Players,
  prepareInstrument,
  type EngineEvent,
} from '#core/engine/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';

/** How long a trial lasts. */
const TRIAL_MS = 2000;
/** Voices that are tried: two layers from four stereo positions, pitched, filtered. */
const VOICES = 32;
const BLOCK_MS = (128 / ENGINE_RATE) * 1000;
const TRACK = 0;

/** Milliseconds that one voice takes of a block's time on this machine. */
export interface CapacityAnswer {
  voiceMs: number;
  blockMs: number;
}

const started = (voice: number): EngineEvent => ({
  kind: 'start',
  frame: 0,
  track: TRACK,
  sound: voice,
  articulation: 0,
  role: 'attack',
  // A third of the notes of a library sound at their own pitch, the others near it.
  key: 68 + (voice % 3),
  velocity: 90,
  fromKey: 0,
  take: 0,
  offsetSeconds: voice * 0.01,
  fadeInSeconds: 0,
});

self.onmessage = () => {
  const { instrument, audio } = heavyInstrument();
  const players = new Players();
  players.ensureTracks(1);
  players.tracks[TRACK].setInstrument(prepareInstrument(instrument, audio));
  const positions = Object.fromEntries(HEAVY_POSITIONS.map((id) => [id, PLAIN_POSITION]));
  players.tracks[TRACK].setMix({ gainDb: 0, pan: 0, muted: false, hallSendDb: -12, positions }, ENGINE_RATE);
  players.reset();
  // Both layers in the middle of their crossfade.
  players.apply({ kind: 'control', frame: 0, track: TRACK, controller: 1, value: 64 });
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
