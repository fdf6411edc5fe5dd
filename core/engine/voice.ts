import type { Loop } from '../catalogue/index.ts';
import { PHASES, SINC_TABLE, TAPS, TAPS_BEFORE } from '../dsp/index.ts';
import { centsToRatio, clamp } from '../units/index.ts';
import { fadeGain, quarterSine, velocityGain } from './gains.ts';
import type { PreparedZone, SampleAudio } from './prepared.ts';

/** Layers (zones) one voice can blend. */
export const MAX_STREAMS = 12;
/** Microphone positions one voice can sound from. */
export const MAX_POSITIONS = 8;
/** Longest run of frames rendered at once. */
export const BLOCK = 128;

const INT16_SCALE = 1 / 32768;
/** Fastest playback: six octaves up. It bounds what one block can reach of a sample. */
const HIGHEST_RATIO = 64;

const index = new Int32Array(BLOCK);
const taps = new Float64Array(BLOCK * TAPS);
const laidLeft = new Float64Array(BLOCK * HIGHEST_RATIO + 2 * TAPS);
const laidRight = new Float64Array(BLOCK * HIGHEST_RATIO + 2 * TAPS);
const mixLeft = Array.from({ length: MAX_POSITIONS }, () => new Float64Array(BLOCK));
const mixRight = Array.from({ length: MAX_POSITIONS }, () => new Float64Array(BLOCK));

/** Where in its life a voice is. */
const enum Stage {
  Idle,
  Sounding,
  Ending,
}

/** Controller values by number as a voice reads them. */
export type Controllers = Float64Array;

/** One sounding zone set: all layers of one take, from all positions, in step. */
export class Voice {
  track = 0;
  sound = 0;
  key = 0;
  articulation = 0;
  /** Sum of squares of the last run, to choose which voice to give up. */
  energy = 0;
  /** Level of the envelope now, 0…1. */
  level = 0;
  /** Index of the loudest layer, or −1, for display. */
  loudest = -1;

  private stage: Stage = Stage.Idle;
  private zones: PreparedZone[] = [];
  private streams = 0;
  private velocity = 0;
  private baseGain = 1;
  private age = 0;
  private fadeInFrames = 0;
  private endAge = 0;
  private endFrames = 1;
  private endLevel = 1;
  private fresh = true;
  private readonly phase = new Float64Array(MAX_STREAMS);
  private readonly gain = new Float64Array(MAX_STREAMS);
  private readonly gainStep = new Float64Array(MAX_STREAMS);
  /** State of the low-pass: two integrators per channel per position. */
  private readonly filter = new Float64Array(MAX_POSITIONS * 4);

  get idle(): boolean {
    return this.stage === Stage.Idle;
  }
  get ending(): boolean {
    return this.stage === Stage.Ending;
  }

  /**
   * Begins to sound.
   * @param zones candidates for the key; those of another velocity or take are passed over
   * @param level scales the whole voice, 1 = as recorded
   * @returns false when no zone fits
   */
  start(
    zones: readonly PreparedZone[],
    take: number,
    key: number,
    velocity: number,
    interval: number,
    offsetFrames: number,
    fadeInFrames: number,
    level: number,
  ): boolean {
    let count = 0;
    for (let i = 0; i < zones.length && count < MAX_STREAMS; i++) {
      const { zone } = zones[i];
      if (velocity < zone.velocityLow || velocity > zone.velocityHigh) continue;
      if (zone.takes > 1 && zone.take !== ((take % zone.takes) + zone.takes) % zone.takes) continue;
      if (zone.interval !== undefined && zone.interval !== interval) continue;
      this.zones[count] = zones[i];
      this.phase[count] = zone.startFrame + offsetFrames * zones[i].rateRatio;
      this.gain[count] = 0;
      count++;
    }
    this.streams = count;
    if (count === 0) return false;
    this.stage = Stage.Sounding;
    this.key = key;
    this.velocity = velocity;
    this.baseGain = level;
    this.age = 0;
    this.fadeInFrames = fadeInFrames;
    this.level = fadeInFrames > 0 || this.zones[0].zone.envelope.attackSeconds > 0 ? 0 : 1;
    this.energy = 1;
    this.fresh = true;
    this.filter.fill(0);
    return true;
  }

  /** Begins to fade; a negative time takes the zone's own release. One-shots play on unless told a time. */
  stop(fadeFrames: number, rate: number): void {
    if (this.stage !== Stage.Sounding) return;
    const { zone } = this.zones[0];
    if (fadeFrames < 0 && zone.oneShot) return;
    this.stage = Stage.Ending;
    this.endAge = 0;
    this.endLevel = this.level;
    this.endFrames = Math.max(32, fadeFrames < 0 ? zone.envelope.releaseSeconds * rate : fadeFrames);
  }

  /** Falls silent at once, within one run. */
  cut(): void {
    this.stage = Stage.Idle;
  }

  /** True when the recorded end of this note may be played. */
  get wantsRelease(): boolean {
    return this.stage === Stage.Sounding && !this.zones[0].zone.oneShot;
  }

  /**
   * Adds frames [from, to) to the position buses.
   * @param left, right one array per position index
   */
  render(
    left: readonly Float64Array[],
    right: readonly Float64Array[],
    positions: number,
    from: number,
    to: number,
    controllers: Controllers,
    bendCents: number,
    rate: number,
  ): void {
    const count = to - from;
    const levelBefore = this.level;
    this.advanceEnvelope(count, rate);
    this.updateGains(controllers, count);
    for (let p = 0; p < positions; p++) {
      mixLeft[p].fill(0, from, to);
      mixRight[p].fill(0, from, to);
    }
    for (let s = 0; s < this.streams; s++) {
      const before = this.gain[s] - this.gainStep[s] * count;
      const prepared = this.zones[s];
      if ((before === 0 && this.gain[s] === 0) || this.phase[s] >= prepared.lengthFrames) continue;
      const first = this.planTaps(s, from, to, controllers, bendCents);
      for (let p = 0; p < positions; p++) {
        const source = prepared.sources[p];
        if (source)
          addStream(
            source,
            prepared.loop,
            first,
            mixLeft[p],
            mixRight[p],
            before,
            this.gainStep[s],
            from,
            to,
          );
      }
    }
    const cutoff = this.cutoffNow(controllers);
    this.energy = 0;
    for (let p = 0; p < positions; p++) {
      if (cutoff < 20000) this.lowPass(p, cutoff, rate, from, to);
      this.energy += addEnveloped(
        mixLeft[p],
        mixRight[p],
        left[p],
        right[p],
        levelBefore,
        this.level,
        from,
        to,
      );
    }
    const alive = this.advancePhases(count, controllers, bendCents);
    if (!alive || (this.stage === Stage.Ending && this.endAge >= this.endFrames)) this.stage = Stage.Idle;
  }

  private ratioOf(stream: number, controllers: Controllers, bendCents: number): number {
    const prepared = this.zones[stream];
    const { zone } = prepared;
    let shift = (this.key - zone.rootKey) * 100 + zone.tuneCents + bendCents;
    for (let m = 0; m < zone.modulations.length; m++) {
      const modulation = zone.modulations[m];
      if (modulation.target === 'tuneCents')
        shift += (modulation.depth * controllers[modulation.controller]) / 127;
    }
    const ratio = shift === 0 ? prepared.rateRatio : prepared.rateRatio * centsToRatio(shift);
    return ratio < HIGHEST_RATIO ? ratio : HIGHEST_RATIO;
  }

  private cutoffNow(controllers: Controllers): number {
    const { zone } = this.zones[0];
    let cutoff = zone.cutoffHz ?? 24000;
    for (let m = 0; m < zone.modulations.length; m++) {
      const modulation = zone.modulations[m];
      if (modulation.target === 'cutoffCents')
        cutoff *= centsToRatio((modulation.depth * controllers[modulation.controller]) / 127);
    }
    return cutoff;
  }

  private advanceEnvelope(count: number, rate: number): void {
    this.age += count;
    if (this.stage === Stage.Ending) {
      this.endAge += count;
      this.level = this.endLevel * quarterSine(1 - this.endAge / this.endFrames);
      return;
    }
    const { envelope } = this.zones[0].zone;
    const attack = envelope.attackSeconds * rate;
    let level = attack > 0 ? clamp(this.age / attack, 0, 1) : 1;
    const decayFrom = attack + envelope.holdSeconds * rate;
    if (envelope.sustain < 1 && this.age > decayFrom) {
      const decay = Math.max(1, envelope.decaySeconds * rate);
      level = Math.max(envelope.sustain, 1 - ((1 - envelope.sustain) * (this.age - decayFrom)) / decay);
    }
    if (this.fadeInFrames > 0) level *= quarterSine(this.age / this.fadeInFrames);
    this.level = level;
  }

  /** New layer gains and their steps over the run. */
  private updateGains(controllers: Controllers, count: number): void {
    let best = -1;
    let bestGain = 0;
    for (let s = 0; s < this.streams; s++) {
      const prepared = this.zones[s];
      const { zone } = prepared;
      let gain = prepared.gain * this.baseGain * velocityGain(this.velocity, zone.velocityTrack);
      for (let f = 0; f < zone.fades.length; f++)
        gain *= fadeGain(zone.fades[f], controllers[zone.fades[f].controller]);
      let db = 0;
      for (let m = 0; m < zone.modulations.length; m++) {
        const modulation = zone.modulations[m];
        if (modulation.target === 'gainDb')
          db += (modulation.depth * controllers[modulation.controller]) / 127;
      }
      if (db !== 0) gain *= 10 ** (db / 20);
      const before = this.fresh ? gain : this.gain[s];
      this.gainStep[s] = (gain - before) / count;
      this.gain[s] = gain;
      if (gain > bestGain) [best, bestGain] = [s, gain];
    }
    this.fresh = false;
    this.loudest = best;
  }

  /** Moves every layer on; false when all have run out. */
  private advancePhases(count: number, controllers: Controllers, bendCents: number): boolean {
    let alive = false;
    for (let s = 0; s < this.streams; s++) {
      const { loop, lengthFrames } = this.zones[s];
      let phase = this.phase[s] + count * this.ratioOf(s, controllers, bendCents);
      if (loop && phase >= loop.end) phase = loop.start + ((phase - loop.start) % (loop.end - loop.start));
      this.phase[s] = phase;
      if (phase < lengthFrames) alive = true;
    }
    return alive;
  }

  /**
   * Works out places and interpolation weights of one layer for frames [from, to), into module scratch.
   * @returns the sample's frame to which the places are relative; loops are not yet taken into account
   */
  private planTaps(
    stream: number,
    from: number,
    to: number,
    controllers: Controllers,
    bendCents: number,
  ): number {
    const ratio = this.ratioOf(stream, controllers, bendCents);
    const table = SINC_TABLE;
    let phase = this.phase[stream];
    const first = Math.floor(phase) - TAPS_BEFORE;
    for (let i = from; i < to; i++) {
      const at = Math.floor(phase);
      index[i] = at - TAPS_BEFORE - first;
      const place = (phase - at) * PHASES;
      const row = Math.floor(place);
      const blend = place - row;
      const a = row * TAPS;
      const t = i * TAPS;
      taps[t] = table[a] + blend * (table[a + 8] - table[a]);
      taps[t + 1] = table[a + 1] + blend * (table[a + 9] - table[a + 1]);
      taps[t + 2] = table[a + 2] + blend * (table[a + 10] - table[a + 2]);
      taps[t + 3] = table[a + 3] + blend * (table[a + 11] - table[a + 3]);
      taps[t + 4] = table[a + 4] + blend * (table[a + 12] - table[a + 4]);
      taps[t + 5] = table[a + 5] + blend * (table[a + 13] - table[a + 5]);
      taps[t + 6] = table[a + 6] + blend * (table[a + 14] - table[a + 6]);
      taps[t + 7] = table[a + 7] + blend * (table[a + 15] - table[a + 7]);
      phase += ratio;
    }
    return first;
  }

  /** State-variable low-pass, trapezoidal integrators (A. Simper 2013); resonance in dB above a Butterworth. */
  private lowPass(position: number, cutoffHz: number, rate: number, from: number, to: number): void {
    const g = Math.tan((Math.PI * clamp(cutoffHz, 20, rate * 0.45)) / rate);
    const k = Math.SQRT2 / 10 ** (clamp(this.zones[0].zone.resonanceDb ?? 0, 0, 40) / 20);
    const a1 = 1 / (1 + g * (g + k));
    const a2 = g * a1;
    const a3 = g * a2;
    // Both channels in one loop: each waits for its own last result, so together they cost little more than one.
    const left = mixLeft[position];
    const right = mixRight[position];
    const at = position * 4;
    let l1 = this.filter[at];
    let l2 = this.filter[at + 1];
    let r1 = this.filter[at + 2];
    let r2 = this.filter[at + 3];
    for (let i = from; i < to; i++) {
      const l3 = left[i] - l2;
      const r3 = right[i] - r2;
      const lBand = a1 * l1 + a2 * l3;
      const rBand = a1 * r1 + a2 * r3;
      const lLow = l2 + a2 * l1 + a3 * l3;
      const rLow = r2 + a2 * r1 + a3 * r3;
      l1 = 2 * lBand - l1;
      r1 = 2 * rBand - r1;
      l2 = 2 * lLow - l2;
      r2 = 2 * rLow - r2;
      left[i] = lLow;
      right[i] = rLow;
    }
    this.filter[at] = quiet(l1);
    this.filter[at + 1] = quiet(l2);
    this.filter[at + 2] = quiet(r1);
    this.filter[at + 3] = quiet(r2);
  }
}

/** 0 in place of denormals, which would slow the loop down after the sound has ended. */
function quiet(state: number): number {
  return Math.abs(state) < 1e-30 ? 0 : state;
}

/** Adds two channels under a straight envelope ramp; returns the sum of squares added. */
function addEnveloped(
  bufferLeft: Float64Array,
  bufferRight: Float64Array,
  left: Float64Array,
  right: Float64Array,
  levelFrom: number,
  levelTo: number,
  from: number,
  to: number,
): number {
  const step = (levelTo - levelFrom) / (to - from);
  let level = levelFrom;
  let energy = 0;
  for (let i = from; i < to; i++) {
    level += step;
    const l = bufferLeft[i] * level;
    const r = bufferRight[i] * level;
    left[i] += l;
    right[i] += r;
    energy += l * l + r * r;
  }
  return energy;
}

/**
 * Adds one layer from one position, using the planned taps, with a straight gain ramp. The frames needed are first
 * laid out as doubles, loops and edges resolved: the loop that does the work then has no branch and no conversion.
 */
function addStream(
  source: SampleAudio,
  loop: Loop | null,
  first: number,
  left: Float64Array,
  right: Float64Array,
  gainBefore: number,
  gainStep: number,
  from: number,
  to: number,
): void {
  const scale = source.data instanceof Int16Array ? INT16_SCALE : 1;
  const step = gainStep * scale;
  let gain = gainBefore * scale;
  layOut(source, loop, first, index[to - 1] + TAPS);
  const l = laidLeft;
  const r = source.channels === 2 ? laidRight : laidLeft;
  const weights = taps;
  const places = index;
  for (let i = from; i < to; i++) {
    gain += step;
    const b = places[i];
    const t = i * TAPS;
    const c0 = weights[t];
    const c1 = weights[t + 1];
    const c2 = weights[t + 2];
    const c3 = weights[t + 3];
    const c4 = weights[t + 4];
    const c5 = weights[t + 5];
    const c6 = weights[t + 6];
    const c7 = weights[t + 7];
    // Pairs, so that the additions need not wait for each other.
    const leftLow = l[b] * c0 + l[b + 1] * c1 + (l[b + 2] * c2 + l[b + 3] * c3);
    const leftHigh = l[b + 4] * c4 + l[b + 5] * c5 + (l[b + 6] * c6 + l[b + 7] * c7);
    const rightLow = r[b] * c0 + r[b + 1] * c1 + (r[b + 2] * c2 + r[b + 3] * c3);
    const rightHigh = r[b + 4] * c4 + r[b + 5] * c5 + (r[b + 6] * c6 + r[b + 7] * c7);
    left[i] += gain * (leftLow + leftHigh);
    right[i] += gain * (rightLow + rightHigh);
  }
}

/** Puts frames [first, first + count) of a sample into the scratch, as they are heard: looped, and silent outside. */
function layOut(source: SampleAudio, loop: Loop | null, first: number, count: number): void {
  const { data, channels, frames } = source;
  const end = loop ? Math.min(loop.end, frames) : frames;
  const l = laidLeft;
  const r = laidRight;
  if (first >= 0 && first + count <= end) {
    if (channels === 2)
      for (let i = 0, at = 2 * first; i < count; i++, at += 2) {
        l[i] = data[at];
        r[i] = data[at + 1];
      }
    else for (let i = 0; i < count; i++) l[i] = data[first + i];
    return;
  }
  for (let i = 0; i < count; i++) {
    let frame = first + i;
    if (loop && frame >= loop.end) frame = loop.start + ((frame - loop.end) % (loop.end - loop.start));
    const inside = frame >= 0 && frame < frames;
    l[i] = inside ? data[frame * channels] : 0;
    r[i] = inside ? data[frame * channels + channels - 1] : 0;
  }
}
