import { articulationTerm, type Articulation, type Zone } from '../catalogue/index.ts';
import { attackEnvelope, onsetOfEnvelope, powerEvery5ms, STEP_SECONDS } from '../measure/index.ts';
import type { HeardSample, Layer } from './zones.ts';

/** What the parts of a report need to know. */
export interface Measuring {
  articulation: Articulation;
  layers: readonly Layer[];
  /** The nearest position there is. */
  near: string;
  /** A zone's recording at a position (the nearest unless given), undefined when missing or of no use. */
  sound(zone: Zone, position?: string): HeardSample | undefined;
}

/** Frames of a zone are counted at its finest rate; this is what they are worth in one recording. */
export function frameOf(zone: Zone, frame: number, audio: HeardSample, context: Measuring): number {
  let finest = audio.rate;
  for (const position of Object.keys(zone.samples))
    finest = Math.max(finest, context.sound(zone, position)?.rate ?? 0);
  return Math.round((frame * audio.rate) / finest);
}

/** Where a recording's tone is looked at: the settled part of a held note, the stroke of a short one. */
export function lookedSpan(
  zone: Zone,
  audio: HeardSample,
  context: Measuring,
  seconds = 0.6,
): { from: number; to: number; onset: number } {
  const { group } = articulationTerm(context.articulation.id);
  const start = frameOf(zone, zone.startFrame, audio, context);
  const frames = audio.channels[0].length;
  const onset =
    start + Math.round(onsetOfEnvelope(attackEnvelope(audio.channels, audio.rate, start)) * audio.rate);
  if (group === 'short') return { from: onset, to: endOfStroke(audio, onset), onset };
  const last = zone.loop ? frameOf(zone, zone.loop.end, audio, context) : Math.round(frames * 0.85);
  const from = Math.min(
    onset + Math.round(0.2 * audio.rate),
    Math.max(onset, last - Math.round(0.2 * audio.rate)),
  );
  return { from, to: Math.max(from + 1, Math.min(last, from + Math.round(seconds * audio.rate))), onset };
}

/** Where a short note has fallen by 10 dB from its height, 0.06 to 0.4 s after it speaks: what is told of it is told of its sound. */
function endOfStroke({ channels, rate }: HeardSample, onset: number): number {
  const frames = channels[0].length;
  const power = powerEvery5ms(channels, rate, onset, Math.min(frames, onset + Math.round(0.4 * rate)));
  const height = power.reduce((most, value) => Math.max(most, value), 0);
  let last = power.length - 1;
  while (last > 0 && power[last] < height / 10) last--;
  const end = onset + Math.round(Math.max(0.06, (last + 1) * STEP_SECONDS) * rate);
  return Math.max(onset + 1, Math.min(frames, end));
}

/** Both channels as one. Allocates for stereo. */
export function monoOf({ channels }: HeardSample): Float32Array {
  return channels.length === 1 ? channels[0] : channels[0].map((value, i) => (value + channels[1][i]) / 2);
}

/** To four digits after the point: finer than anything measured here. */
export function rounded(value: number): number {
  return Math.round(value * 10_000) / 10_000;
}
