import { SOURCE, type Fade, type Loop, type Modulation } from '../catalogue/index.ts';
import { centsToRatio, clamp, cos, exp10, sin } from '../units/index.ts';
import { fadeGain, velocityGain } from './gains.ts';
import { curveShare } from './moves.ts';
import type { PreparedZone } from './prepared.ts';

/** Fastest playback: six octaves up. It bounds what one block can reach of a sample. */
export const HIGHEST_RATIO = 64;

/** Layers (zones) one voice can blend. */
export const MAX_LAYERS = 12;

/** Controller values by number as a voice reads them. */
export type Controllers = Float64Array;

/** The note that a layer plays. */
export interface Note {
  readonly key: number;
  readonly velocity: number;
  readonly baseGain: number;
  readonly morph: Fade | null;
}

/** Value of a source for a note, 0…127. */
export function sourceValue(number: number, note: Note, controllers: Controllers): number {
  if (number === SOURCE.velocity) return note.velocity;
  return number === SOURCE.key ? note.key : controllers[number];
}

/** What modulations of one target add up to. */
export function modulated(
  modulations: readonly Modulation[],
  target: Modulation['target'],
  note: Note,
  controllers: Controllers,
): number {
  let sum = 0;
  for (let m = 0; m < modulations.length; m++) {
    const one = modulations[m];
    if (one.target === target)
      sum += one.depth * curveShare(one.curve, sourceValue(one.controller, note, controllers));
  }
  return sum;
}

/** One layer of a voice: a zone, the place it has come to, and how loud and fast it is. */
export class Layer {
  zone!: PreparedZone;
  /** Frames of the zone from its beginning. */
  phase = 0;
  /** Whether it has been round its loop, so that what lies before the loop is the loop's end. */
  inLoop = false;
  /** Frames of the zone per frame, at the beginning and the end of the present run. */
  ratio = 1;
  ratioAfter = 1;
  /** Gains at the beginning and the end of the present run. */
  left = 0;
  right = 0;
  leftAfter = 0;
  rightAfter = 0;
  /** Gain by velocity and controllers alone. */
  gain = 0;
  private fresh = true;

  /** Begins at its zone's start, silent until the first gains. */
  begin(zone: PreparedZone): void {
    this.zone = zone;
    this.phase = zone.zone.startFrame;
    this.inLoop = false;
    this.fresh = true;
    this.left = this.right = this.leftAfter = this.rightAfter = 0;
  }

  /** Whether nothing is heard of it in this run: it is silent, or its recording is over. */
  get isOver(): boolean {
    if (this.phase >= this.zone.lengthFrames) return true;
    return this.left === 0 && this.right === 0 && this.leftAfter === 0 && this.rightAfter === 0;
  }

  /** Loops that end with the key are left when the voice ends. */
  loopNow(ending: boolean): Loop | null {
    const { loop } = this.zone;
    return loop?.untilRelease && ending ? null : loop;
  }

  /** Frames of the zone per frame for a note. @param cents beside what the zone itself says */
  ratioFor(note: Note, controllers: Controllers, cents: number): number {
    const { zone, rateRatio } = this.zone;
    const shift =
      (note.key - zone.rootKey) * (zone.keyTrack ?? 100) +
      zone.tuneCents +
      cents +
      modulated(zone.modulations, 'tuneCents', note, controllers);
    const ratio = shift === 0 ? rateRatio : rateRatio * centsToRatio(shift);
    return ratio < HIGHEST_RATIO ? ratio : HIGHEST_RATIO;
  }

  /** Gain by velocity and controllers, apart from moves, envelope and ramp. */
  gainFor(note: Note, controllers: Controllers): number {
    const { zone, gain: own } = this.zone;
    let gain = own * note.baseGain * velocityGain(note.velocity, zone.velocityTrack);
    const { morph } = note;
    if (morph) gain *= fadeGain(morph, sourceValue(morph.controller, note, controllers));
    const { fades, modulations } = zone;
    for (let f = 0; f < fades.length; f++)
      gain *= fadeGain(fades[f], sourceValue(fades[f].controller, note, controllers));
    let db = 0;
    for (let m = 0; m < modulations.length; m++) {
      const { target, depth, curve, controller } = modulations[m];
      if (target !== 'gainDb' && target !== 'amplitude') continue;
      const amount = depth * curveShare(curve, sourceValue(controller, note, controllers));
      if (target === 'gainDb') db += amount;
      else gain *= Math.max(0, 1 - depth + amount);
    }
    return db === 0 ? gain : gain * exp10(db / 20);
  }

  /**
   * Goes towards a gain and a pace: they are reached at the end of the block, by `share` at the end of this run.
   * @param share of what is left of the block, 0 … 1
   */
  aim(gain: number, ratio: number, note: Note, controllers: Controllers, share: number): void {
    const { zone } = this.zone;
    const pan = (zone.pan ?? 0) + modulated(zone.modulations, 'pan', note, controllers);
    let left = gain;
    let right = gain;
    if (pan !== 0) {
      // The balance law of `mixing`: constant power, unity in the middle.
      const angle = ((clamp(pan, -1, 1) + 1) * Math.PI) / 4;
      left *= Math.SQRT2 * cos(angle);
      right *= Math.SQRT2 * sin(angle);
    }
    this.left = this.fresh ? left : this.leftAfter;
    this.right = this.fresh ? right : this.rightAfter;
    this.ratio = this.fresh ? ratio : this.ratioAfter;
    this.leftAfter = this.left + share * (left - this.left);
    this.rightAfter = this.right + share * (right - this.right);
    this.ratioAfter = this.ratio + share * (ratio - this.ratio);
    this.fresh = false;
  }

  /** Goes to a place some frames of the zone further on, round the loop where there is one. */
  moveBy(frames: number, ending: boolean): void {
    const loop = this.loopNow(ending);
    const { startFrame } = this.zone.zone;
    let phase = this.phase + frames;
    if (phase < startFrame) phase = startFrame;
    if (loop && phase >= loop.end) {
      phase = loop.start + ((phase - loop.start) % (loop.end - loop.start));
      this.inLoop = true;
    } else if (!loop) this.inLoop = false;
    this.phase = phase;
  }

  /** Goes on by a run. @returns false when the recording is over */
  advance(count: number, ending: boolean): boolean {
    this.moveBy((count * (this.ratio + this.ratioAfter)) / 2, ending);
    return this.phase < this.zone.lengthFrames;
  }
}
