import type { Instrument } from '../catalogue/index.ts';
import { bounce } from '../deliver/index.ts';
import type { HallResponse } from '../dsp/index.ts';
import type { SampleAudio, SoundMemory } from '../engine/index.ts';
import type { HallMix, TrackMix } from '../mixing/index.ts';
import { TempoMap } from '../music/index.ts';
import { planPart, toEvents } from '../performance/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Loudness } from './match.ts';
import type { WrittenPhrase } from './phrases.ts';

/** Silence in front of every rendering, the same for all, so that leads have room and places agree. */
export const PRE_ROLL_SECONDS = 0.4;
/** What rings on after a phrase is kept this long at most. */
const LONGEST_TAIL_SECONDS = 4;

/** A phrase to be rendered by one contender. */
export interface PhraseOrder {
  instrument: Instrument;
  audio: ReadonlyMap<string, SampleAudio>;
  articulation: string;
  phrase: WrittenPhrase;
  bpm: number;
  mix: TrackMix;
  hall: HallResponse | null;
  hallMix: HallMix;
}

/** A phrase as it sounds, with its loudness. */
export interface RenderedPhrase extends Loudness {
  left: Float32Array;
  right: Float32Array;
}

/** Renders a phrase by the engine that plays everything else. Slow: for workers. Allocates. @param sound the memory it works in */
export function renderPhrase(order: PhraseOrder, sound?: SoundMemory): RenderedPhrase {
  const { instrument, audio, phrase, mix } = order;
  const tempo = new TempoMap([{ tick: 0, bpm: order.bpm }]);
  const plan = planPart(phrase.part, {
    tempo,
    instrument,
    mix,
    mode: 'planned',
    articulation: order.articulation,
    audio,
  });
  const endFrame = Math.ceil((PRE_ROLL_SECONDS + tempo.toSeconds(phrase.endTick)) * ENGINE_RATE);
  const most = endFrame + LONGEST_TAIL_SECONDS * ENGINE_RATE;
  const left: Float32Array[] = [];
  const right: Float32Array[] = [];
  let frames = 0;
  const figures = bounce(
    {
      instruments: [{ instrument, audio }],
      tracks: [{ instrumentId: instrument.id, mix }],
      hall: order.hall,
      hallMix: order.hallMix,
      events: toEvents(plan, 0, -PRE_ROLL_SECONDS),
      endFrame,
    },
    (l, r) => {
      if (frames >= most) return;
      left.push(l.slice());
      right.push(r.slice());
      frames += l.length;
    },
    () => undefined,
    sound,
  );
  return {
    left: joined(left, Math.min(frames, most)),
    right: joined(right, Math.min(frames, most)),
    lufs: figures.integratedLufs,
    truePeakDb: figures.truePeakDb,
  };
}

function joined(parts: readonly Float32Array[], frames: number): Float32Array {
  const out = new Float32Array(frames);
  let at = 0;
  for (const part of parts) {
    // The last one may be longer than what is left.
    out.set(part.subarray(0, frames - at), at);
    at += part.length;
  }
  return out;
}

/** Greatest absolute value in each of `count` equal stretches, for drawing. Allocates. */
export function outlineOf(left: Float32Array, right: Float32Array, count: number): number[] {
  const step = left.length / count;
  return Array.from({ length: count }, (_, i) => {
    let most = 0;
    for (let f = Math.floor(i * step); f < Math.floor((i + 1) * step); f++)
      most = Math.max(most, Math.abs(left[f]), Math.abs(right[f]));
    return Math.round(most * 1000) / 1000;
  });
}
