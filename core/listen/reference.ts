import { LoudnessMeter } from '../dsp/index.ts';
import {
  decayOf,
  powerEvery5ms,
  STEP_SECONDS,
  spectrumOf,
  thirdOctavesOf,
  THIRD_OCTAVES,
  widthOf,
  type Decay,
  type Width,
} from '../measure/index.ts';
import { fitEq, type EqBand } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** Longest recording that is taken in, and longest passage that is read of it, in seconds. */
export const LONGEST_REFERENCE_SECONDS = 3600;
export const LONGEST_PASSAGE_SECONDS = 120;

/** What is put side by side of a recording and a contender. */
export interface PassageFigures {
  seconds: number;
  lufs: number;
  /** Loudness range in LU (EBU Tech 3342); 0 for passages under 3 s. */
  rangeLu: number;
  /** True peak over loudness, in dB. */
  crestDb: number;
  thirds: number[];
  width: Width | null;
  /** The longest free decay that was found, or null. */
  decay: Decay | null;
}

/** Figures of a passage at 48 kHz. */
export function figuresOfPassage(left: Float32Array, right: Float32Array): PassageFigures {
  const meter = new LoudnessMeter(ENGINE_RATE, true);
  meter.process(left, right, 0, left.length);
  const spectrum = spectrumOf([left, right], ENGINE_RATE, 0, left.length);
  return {
    seconds: left.length / ENGINE_RATE,
    lufs: meter.integrated,
    rangeLu: meter.range,
    crestDb: meter.truePeakDb - meter.integrated,
    thirds: thirdOctavesOf(spectrum),
    width: widthOf([left, right], 0, left.length) ?? null,
    decay: freeDecay([left, right]),
  };
}

const LOOK_SECONDS = 2.5;
const QUIET_STEPS = 8;

/**
 * The place where a passage dies away longest without anything new: after every maximum that is followed by a steady fall,
 * the decay time there; the one that rests on the most decibels.
 */
function freeDecay(channels: readonly Float32Array[]): Decay | null {
  const power = powerEvery5ms(channels, ENGINE_RATE, 0, channels[0].length);
  const smooth = power.map((_, i) => {
    let sum = 0;
    for (let k = i; k < Math.min(power.length, i + QUIET_STEPS); k++) sum += power[k];
    return sum / QUIET_STEPS;
  });
  let best: Decay | null = null;
  for (let i = 1; i + 40 < smooth.length; i++) {
    if (smooth[i] <= smooth[i - 1] || smooth[i] < smooth[i + 1] || smooth[i] < 1e-7) continue;
    // How far it falls before it grows by 3 dB again.
    let low = smooth[i];
    let end = i + 1;
    while (end < smooth.length && smooth[end] < low * 2 && end - i < LOOK_SECONDS / STEP_SECONDS) {
      low = Math.min(low, smooth[end]);
      end++;
    }
    if (low > smooth[i] * 0.02) continue;
    const frame = (step: number) => Math.round(step * STEP_SECONDS * ENGINE_RATE);
    const decay = decayOf(channels, ENGINE_RATE, frame(i), frame(end));
    if (decay && (!best || decay.rangeDb > best.rangeDb)) best = decay;
    i = end;
  }
  return best;
}

/** Third octaves of a contender against those of a reference. */
export interface ToneDifference {
  hertz: readonly number[];
  /** What the contender lacks (above 0) or has too much of, level matched, in dB. */
  differenceDb: number[];
  bands: EqBand[];
}

/** Bands this far below the loudest tell nothing of the tone. */
const HEARD_DB = 36;
/** How much it counts that bands stay flat where nothing was heard: what is not shown is not changed. */
const LEFT_ALONE = 0.6;
/** Weights of neighbouring bands, about an octave together: which notes are played must not count as tone. */
const SMOOTH = [1, 2, 3, 2, 1];

/** Third-octave levels with their power averaged over about an octave. Allocates. */
function smoothed(thirds: readonly number[]): number[] {
  return thirds.map((_, i) => {
    let sum = 0;
    let weights = 0;
    SMOOTH.forEach((weight, k) => {
      const level = thirds[i + k - 2];
      if (level === undefined) return;
      sum += weight * 10 ** (level / 10);
      weights += weight;
    });
    return 10 * Math.log10(Math.max(1e-20, sum / weights));
  });
}

/** Difference of two tones at the same loudness, smoothed over about an octave, and a few broad bands that would make it good. */
export function toneDifference(reference: PassageFigures, contender: PassageFigures): ToneDifference {
  const offset = reference.lufs - contender.lufs;
  const [wanted, own] = [smoothed(reference.thirds), smoothed(contender.thirds)];
  const heard = (levels: readonly number[]) => {
    const most = Math.max(...levels);
    return levels.map((level) => level > most - HEARD_DB);
  };
  const [a, b] = [heard(wanted), heard(own)];
  const weights = a.map((is, i) => (is && b[i] ? 1 : 0));
  const differenceDb = wanted.map((level, i) =>
    weights[i] === 0 ? 0 : Math.round(10 * (level - own[i] - offset)) / 10,
  );
  const heardIn = differenceDb.filter((_, i) => weights[i] > 0);
  const mean = heardIn.reduce((sum, value) => sum + value, 0) / Math.max(1, heardIn.length);
  return {
    hertz: THIRD_OCTAVES,
    differenceDb,
    bands:
      heardIn.length === 0
        ? []
        : fitEq(
            THIRD_OCTAVES,
            differenceDb.map((value, i) => (weights[i] > 0 ? value : mean)),
            weights.map((weight) => (weight > 0 ? weight : LEFT_ALONE)),
            ENGINE_RATE,
          ),
  };
}
