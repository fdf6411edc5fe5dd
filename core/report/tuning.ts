import { articulationTerm, type Zone } from '../catalogue/index.ts';
import { hearPitch, pitchTrackCents } from '../measure/index.ts';
import { midiToHertz } from '../units/index.ts';
import type { TuningFigure } from './figures.ts';
import { usualSpread } from './findings/neighbours.ts';
import { lookedSpan, monoOf, rounded, type Measuring } from './measuring.ts';
import { medianOf } from './readings.ts';
import { isRidden } from './zones.ts';

const CLEAR_PITCH = 0.8;
/** Below this the wave of a struck thing repeats itself too little for its period to be its pitch. */
const REGULAR = 0.96;
/** Farther off than this it is another note or no note at all. */
const FARTHEST_CENTS = 80;
/** The pitch of a short note goes on in the room, for a while as its own. */
const SHORT_SECONDS = 0.4;
/** More recordings of a root tell hardly more. */
const MOST_RECORDINGS = 9;

/** Pitch of one recording, and its cents against the key it is recorded for. */
export function pitchOf(
  context: Measuring,
  zone: Zone,
  position: string,
): { hertz: number; cents: number } | undefined {
  const audio = context.sound(zone, position);
  if (!audio) return undefined;
  const isShort = articulationTerm(context.articulation.id).group === 'short';
  const span = lookedSpan(zone, audio, context, 1.2);
  const to = isShort ? Math.max(span.to, span.onset + Math.round(SHORT_SECONDS * audio.rate)) : span.to;
  const mono = monoOf(audio);
  const heard = hearPitch(mono.subarray(span.onset, Math.max(to, span.onset + 1)), audio.rate);
  if (!heard) return undefined;
  const plain = foldOctaves(100 * (heard.key - zone.rootKey) + heard.cents + zone.tuneCents);
  const isNear = (cents: number | undefined): cents is number =>
    cents !== undefined && Math.abs(cents) <= FARTHEST_CENTS;
  if (heard.clarity >= REGULAR && isNear(plain)) return { hertz: heard.hertz, cents: plain };
  // Bars and plates have partials of their own and hardly a period: there the fundamental decides.
  const cents = fundamentalCents(zone, mono, audio.rate, span.from, to);
  if (isNear(cents)) return { hertz: midiToHertz(zone.rootKey), cents };
  return !isShort && heard.clarity >= CLEAR_PITCH && isNear(plain)
    ? { hertz: heard.hertz, cents: plain }
    : undefined;
}

/** Tuning of a root by all that is recorded of it: layers, takes and positions differ a little, their middle tells. */
export function tuningOf(
  context: Measuring,
  key: number,
  positions: readonly string[],
): Omit<TuningFigure, 'driftCents'> {
  const recordings = context.layers
    .flatMap(({ zones }) => zones.filter((zone) => zone.rootKey === key && !isRidden(zone)))
    .flatMap((zone) => positions.map((position) => ({ zone, position })));
  const step = Math.max(1, recordings.length / MOST_RECORDINGS);
  const heard: number[] = [];
  for (let r = 0; r < recordings.length; r += step) {
    const { zone, position } = recordings[Math.floor(r)];
    const cents = pitchOf(context, zone, position)?.cents;
    if (cents !== undefined) heard.push(cents);
  }
  const middle = medianOf(heard);
  return {
    key,
    cents: rounded(middle),
    errorCents: rounded(heard.length > 2 ? usualSpread(heard) / Math.sqrt(heard.length) : 0),
  };
}

/** Cents of a note's fundamental by its phase; undefined where it wanders too much to be one. */
function fundamentalCents(
  zone: Zone,
  mono: Float32Array,
  rate: number,
  from: number,
  to: number,
): number | undefined {
  const track = pitchTrackCents(mono, rate, midiToHertz(zone.rootKey), from + 0.03 * rate, to);
  const sorted = [...track].sort((a, b) => a - b);
  if (sorted.length < 10) return undefined;
  const wander = sorted[Math.floor(sorted.length * 0.75)] - sorted[Math.floor(sorted.length * 0.25)];
  return wander > 10 ? undefined : sorted[sorted.length >> 1] + zone.tuneCents;
}

/** Cents from the first half of a track to the second; 0 where it is too short. */
export function driftOf(track: Float64Array): number {
  if (track.length < 20) return 0;
  const half = track.length >> 1;
  const median = (list: Float64Array) => [...list].sort((a, b) => a - b)[list.length >> 1];
  return median(track.subarray(half)) - median(track.subarray(0, half));
}

/** Cents with whole octaves taken away: harmonics sound above the key that plays them. */
function foldOctaves(cents: number): number {
  return cents - 1200 * Math.round(cents / 1200);
}
