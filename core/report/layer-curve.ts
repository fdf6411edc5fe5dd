import { SOURCE, type Zone } from '../catalogue/index.ts';
import { curveShare } from '../engine/index.ts';
import {
  centroidOfSpectrum,
  loudnessOfSpectrum,
  looksAt,
  sharedSpectrum,
  type Looks,
  type Spectrum,
} from '../measure/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { blendOf, zoneGain, type Touch } from '../performance/index.ts';
import { centsToRatio } from '../units/index.ts';
import type { LayerCurve, LayerStep } from './figures.ts';
import { MIDDLE_TOUCH, type HeardSample } from './zones.ts';

/** A zone with the part of its recording that is looked at. */
export interface LookedZone {
  zone: Zone;
  audio: HeardSample;
  from: number;
  to: number;
}

/** Half of the span across which a step is looked for, and the stretch on either side that tells the usual slope. */
const HALF = 4;
const SLOPE = 16;
const AUDIBLE_STEP_LU = 0.75;

/**
 * Loudness and brightness of one key along the controller that rules its layers, as the engine blends them: zones sounding
 * together are added as waves (their cross spectra count) and scaled by how alike they are, with their gains and filter at every
 * controller value.
 * @param zones all zones of one take of the key that may sound together
 */
export function layerCurve(
  zones: readonly LookedZone[],
  key: number,
  controller: 'dynamics' | 'velocity',
): LayerCurve {
  const looks = zones.map(({ audio, from, to }) => looksAt(audio.channels, audio.rate, from, to));
  const pairs: { a: number; b: number; shared: Spectrum }[] = [];
  for (let a = 0; a < zones.length; a++)
    for (let b = 0; b <= a; b++) pairs.push({ a, b, shared: sharedSpectrum(looks[a], looks[b]) });
  const lufs: number[] = [];
  const centroidHz: number[] = [];
  const gainsAt: number[][] = [];
  for (let value = 1; value <= 127; value++) {
    const touch: Touch = { ...MIDDLE_TOUCH, [controller]: value };
    const gains = zones.map(({ zone }) =>
      touch.velocity < zone.velocityLow || touch.velocity > zone.velocityHigh ? 0 : zoneGain(zone, touch),
    );
    gainsAt.push(gains);
    const scale = blendOf(
      zones.map(({ zone }) => zone),
      gains,
    );
    const sum = blend(
      pairs,
      gains.map((gain) => gain * scale),
    );
    filterBy(sum, zones[foremostOf(gains)].zone, touch);
    lufs.push(rounded(Math.max(-90, loudnessOfSpectrum(sum))));
    centroidHz.push(Math.round(centroidOfSpectrum(sum)));
  }
  return { key, controller, lufs, centroidHz, steps: stepsOf(lufs, centroidHz, gainsAt, pairs, looks) };
}

function blend(
  pairs: readonly { a: number; b: number; shared: Spectrum }[],
  gains: readonly number[],
): Spectrum {
  const { shared } = pairs[0];
  const power = new Float64Array(shared.power.length);
  for (const { a, b, shared: own } of pairs) {
    const weight = gains[a] * gains[b] * (a === b ? 1 : 2);
    if (weight !== 0) for (let k = 0; k < power.length; k++) power[k] += weight * own.power[k];
  }
  return { power, binHz: shared.binHz };
}

function foremostOf(gains: readonly number[]): number {
  return gains.indexOf(Math.max(...gains));
}

/** A low-pass of two poles, as the voice has it, where controllers open and close it (Butterworth's response). */
function filterBy(spectrum: Spectrum, zone: Zone, touch: Touch): void {
  if (zone.cutoffHz === undefined || (zone.filter ?? 'lowpass2') !== 'lowpass2') return;
  let cents = 0;
  for (const { target, depth, curve, controller } of zone.modulations) {
    if (target !== 'cutoffCents') continue;
    const value =
      controller === CONTROLLER.dynamics
        ? touch.dynamics
        : controller === SOURCE.velocity
          ? touch.velocity
          : controller === CONTROLLER.vibrato
            ? touch.vibrato
            : 0;
    cents += depth * curveShare(curve, value);
  }
  const cutoff = zone.cutoffHz * centsToRatio(cents);
  for (let k = 0; k < spectrum.power.length; k++)
    spectrum.power[k] /= 1 + ((k * spectrum.binHz) / cutoff) ** 4;
}

/**
 * Where the foremost zone changes, and how far loudness and brightness jump there: the difference across 8 steps of the
 * controller less what the slopes beside it explain.
 */
function stepsOf(
  lufs: readonly number[],
  centroid: readonly number[],
  gains: readonly (readonly number[])[],
  pairs: readonly { a: number; b: number; shared: Spectrum }[],
  looks: readonly Looks[],
): LayerStep[] {
  const octaves = centroid.map((hz) => Math.log2(Math.max(20, hz)));
  const steps: LayerStep[] = [];
  for (let i = 1; i < gains.length; i++) {
    const [before, after] = [foremostOf(gains[i - 1]), foremostOf(gains[i])];
    if (before === after) continue;
    const near = steps.at(-1);
    if (near && i + 1 - near.at < 3) continue;
    let overlap = 0;
    for (const list of gains) {
      const [x, y] = [list[before], list[after]];
      if (x > 0 && y > 0 && Math.abs(20 * Math.log10(x / y)) < 10) overlap++;
    }
    steps.push({
      at: i + 1,
      stepLu: rounded(jumpAt(lufs, i)),
      stepOctaves: rounded(jumpAt(octaves, i)),
      overlap,
      coherence: rounded(coherence(pairs, before, after, looks)),
    });
  }
  return steps.filter(
    (step) => Math.abs(step.stepLu) >= AUDIBLE_STEP_LU || step.overlap > 0 || step.stepOctaves !== 0,
  );
}

function jumpAt(values: readonly number[], at: number): number {
  const left = Math.max(0, at - HALF);
  const right = Math.min(values.length - 1, at + HALF - 1);
  const slope = (from: number, to: number) => (to > from ? (values[to] - values[from]) / (to - from) : 0);
  const before = slope(Math.max(0, left - SLOPE), left);
  const after = slope(right, Math.min(values.length - 1, right + SLOPE));
  return values[right] - values[left] - ((right - left) * (before + after)) / 2;
}

/** Mean over the looks of how far two recordings hold their phases against each other, weighted by power. */
function coherence(
  pairs: readonly { a: number; b: number; shared: Spectrum }[],
  a: number,
  b: number,
  looks: readonly Looks[],
): number {
  const find = (x: number, y: number) =>
    pairs.find((pair) => pair.a === Math.max(x, y) && pair.b === Math.min(x, y))?.shared.power;
  const [aa, bb] = [find(a, a), find(b, b)];
  if (!aa || !bb) return 1;
  const size = looks[a].looks[0].length / 2;
  const count = Math.min(looks[a].looks.length, looks[b].looks.length);
  let sum = 0;
  let weights = 0;
  // Two channels are packed into one look: what they do at a frequency stands at k and at −k.
  const held = (k: number) => {
    let re = 0;
    let im = 0;
    for (let l = 0; l < count; l++) {
      const x = looks[a].looks[l];
      const y = looks[b].looks[l];
      re += x[2 * k] * y[2 * k] + x[2 * k + 1] * y[2 * k + 1];
      im += x[2 * k + 1] * y[2 * k] - x[2 * k] * y[2 * k + 1];
    }
    return Math.hypot(re, im) / count;
  };
  for (let k = 1; k < size / 2; k++) {
    const weight = Math.sqrt(aa[k] * bb[k]);
    if (weight <= 0) continue;
    sum += Math.min(weight, held(k) + held(size - k));
    weights += weight;
  }
  return weights > 0 ? Math.min(1, sum / weights) : 1;
}

const rounded = (value: number) => Math.round(value * 1000) / 1000;
