import type { Zone } from '../catalogue/index.ts';
import { curveShare, fadeGain, velocityGain, type SampleAudio } from '../engine/index.ts';
import { LOWEST_LEVEL_DB, positionMatrix, type TrackMix } from '../mixing/index.ts';
import { centsToRatio, dbToGain, ENGINE_RATE } from '../units/index.ts';
import { sourceValue, type Touch } from './touch.ts';

/** How much of a sound is looked at. */
const LOOK_SECONDS = 0.56;

/** Gain of a zone at a touch: its own level, velocity, crossfades and what controllers add. */
export function zoneGain(zone: Zone, touch: Touch): number {
  let gain = dbToGain(zone.gainDb) * velocityGain(touch.velocity, zone.velocityTrack);
  for (const fade of zone.fades) gain *= fadeGain(fade, sourceValue(fade.controller, touch));
  for (const { target, depth, curve, controller } of zone.modulations) {
    const share = curveShare(curve, sourceValue(controller, touch));
    if (target === 'gainDb') gain *= dbToGain(depth * share);
    else if (target === 'amplitude') gain *= Math.max(0, 1 - depth + depth * share);
  }
  return gain;
}

/** Played pitch of a key against a zone's recording. */
export function ratioAt(zone: Zone, key: number): number {
  return centsToRatio((key - zone.rootKey) * (zone.keyTrack ?? 100) + zone.tuneCents);
}

/** Frames a second of a zone's recordings: the finest of its positions. */
export function rateOf(zone: Zone, audio: ReadonlyMap<string, SampleAudio>): number {
  let rate = 0;
  for (const ref of Object.values(zone.samples)) rate = Math.max(rate, audio.get(ref.sample)?.rate ?? 0);
  return rate || ENGINE_RATE;
}

/**
 * The first half second of a zone as it will be heard: all positions added with the track's levels, balance,
 * polarity and delays, at the recording's own pitch. Allocates.
 * @returns left and right, or undefined when a recording that would be heard is not loaded
 */
export function heardStart(
  zone: Zone,
  mix: TrackMix,
  audio: ReadonlyMap<string, SampleAudio>,
): [Float32Array, Float32Array] | undefined {
  return heardSpan(zone, mix, audio, zone.startFrame, Math.round(LOOK_SECONDS * rateOf(zone, audio)));
}

/** The same of any stretch: `frames` frames of the recording from `from` on. Allocates. */
export function heardSpan(
  zone: Zone,
  mix: TrackMix,
  audio: ReadonlyMap<string, SampleAudio>,
  from: number,
  frames: number,
): [Float32Array, Float32Array] | undefined {
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  const matrix = new Float64Array(4);
  const rate = rateOf(zone, audio);
  for (const [position, ref] of Object.entries(zone.samples)) {
    const own = mix.positions[position];
    if (!own || own.muted || own.levelDb <= LOWEST_LEVEL_DB) continue;
    const sample = audio.get(ref.sample);
    if (!sample) return undefined;
    positionMatrix(own, matrix);
    const delay = Math.round((own.delayMs * rate) / 1000);
    if (sample.rate === rate) addSample(left, right, sample, from, matrix, delay);
    else addStretched(left, right, sample, sample.rate / rate, from, matrix, delay);
  }
  return [left, right];
}

function addSample(
  left: Float32Array,
  right: Float32Array,
  sample: SampleAudio,
  start: number,
  matrix: Float64Array,
  delay: number,
): void {
  const { data, channels } = sample;
  const scale = data instanceof Int16Array ? 1 / 32768 : 1;
  const ll = matrix[0] * scale;
  const lr = matrix[1] * scale;
  const rl = matrix[2] * scale;
  const rr = matrix[3] * scale;
  const count = Math.min(left.length - delay, sample.frames - start);
  for (let i = 0; i < count; i++) {
    const at = (start + i) * channels;
    const l = data[at];
    const r = data[at + channels - 1];
    left[i + delay] += ll * l + lr * r;
    right[i + delay] += rl * l + rr * r;
  }
}

/** The same for a position kept at another rate than the rest, straight between its frames. */
function addStretched(
  left: Float32Array,
  right: Float32Array,
  sample: SampleAudio,
  factor: number,
  start: number,
  matrix: Float64Array,
  delay: number,
): void {
  const { data, channels, frames } = sample;
  const scale = data instanceof Int16Array ? 1 / 32768 : 1;
  for (let i = 0; i + delay < left.length; i++) {
    const place = (start + i) * factor;
    const at = Math.floor(place);
    if (at + 1 >= frames) return;
    const share = place - at;
    const l = (data[at * channels] * (1 - share) + data[(at + 1) * channels] * share) * scale;
    const last = channels - 1;
    const r = (data[at * channels + last] * (1 - share) + data[(at + 1) * channels + last] * share) * scale;
    left[i + delay] += matrix[0] * l + matrix[1] * r;
    right[i + delay] += matrix[2] * l + matrix[3] * r;
  }
}
