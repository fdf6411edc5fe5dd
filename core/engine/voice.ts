import { SOURCE, type Fade, type Loop } from '../catalogue/index.ts';
import { PHASES, SINC_TABLE, TAPS, TAPS_BEFORE } from '../dsp/index.ts';
import { centsToRatio, clamp, dbToGain } from '../units/index.ts';
import { LEVEL_STEP_SECONDS, type StartEvent } from './events.ts';
import { FILTER_STATE, filterStereo } from './filter.ts';
import { PROBE_STEP, type Hearing } from './joining.ts';
import { blendGain, fadeGain, joinGain, velocityGain } from './gains.ts';
import { curveShare, lfoValue, moveEnvelope, volumeEnvelope } from './moves.ts';
import type { PreparedZone, SampleAudio } from './prepared.ts';

/** Layers (zones) one voice can blend. */
export const MAX_STREAMS = 12;
/** Microphone positions one voice can sound from. */
export const MAX_POSITIONS = 8;
/** Longest run of frames rendered at once. */
export const BLOCK = 128;

const INT16_SCALE = 1 / 32768;
/** Layers this far below the loudest do not decide where two waves agree. */
const LEAST_SHARE = 0.2;
const NO_LEVELS: readonly number[] = [];
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
  /** Counts up with every start, to find the oldest. */
  order = 0;
  role: StartEvent['role'] = 'attack';

  private stage: Stage = Stage.Idle;
  private zones: PreparedZone[] = [];
  private streams = 0;
  private velocity = 0;
  private baseGain = 1;
  private age = 0;
  private fadeInFrames = 0;
  private fadeInLikeness = 0;
  private riseSkip = 0;
  private endLikeness = 0;
  private levelsDb: readonly number[] = NO_LEVELS;
  private levelStepFrames = 1;
  /** What it was asked for beside its zones, by which its recorded end is to sound too. */
  sourceGain = 1;
  morph: Fade | null = null;
  private endAge = 0;
  private endFrames = 1;
  private endLevel = 1;
  private fresh = true;
  private readonly phase = new Float64Array(MAX_STREAMS);
  private readonly gainLeft = new Float64Array(MAX_STREAMS);
  private readonly gainRight = new Float64Array(MAX_STREAMS);
  private readonly stepLeft = new Float64Array(MAX_STREAMS);
  private readonly stepRight = new Float64Array(MAX_STREAMS);
  private readonly layerGain = new Float64Array(MAX_STREAMS);
  private readonly layerPower = new Float64Array(MAX_STREAMS);
  /** How alike the layers are, `streams` × `streams`. */
  private readonly alike = new Float64Array(MAX_STREAMS * MAX_STREAMS);
  private blends = false;
  private readonly filter = new Float64Array(MAX_POSITIONS * FILTER_STATE);
  /** What moves of the voice's own (envelopes, LFOs) add now. */
  private movedCents = 0;
  private movedCutoff = 0;
  private movedDb = 0;

  get idle(): boolean {
    return this.stage === Stage.Idle;
  }
  get ending(): boolean {
    return this.stage === Stage.Ending;
  }

  /**
   * Begins to sound.
   * @param zones candidates for the key; those of another chain, velocity, take, interval or gate are passed over
   * @param controllers where they stand, for the gates
   * @param joined whether another note of the track is held
   * @param level scales the whole voice, 1 = as recorded
   * @returns false when no zone fits
   */
  start(
    zones: readonly PreparedZone[],
    chain: number,
    event: StartEvent,
    controllers: Controllers,
    joined: boolean,
    level: number,
    rate: number,
  ): boolean {
    const { key, velocity, take } = event;
    this.key = key;
    this.velocity = velocity;
    const offsetFrames = event.offsetSeconds * rate;
    let count = 0;
    for (let i = 0; i < zones.length && count < MAX_STREAMS; i++) {
      if (zones[i].chain !== chain || zones[i].lengthFrames === 0) continue;
      const { zone } = zones[i];
      if (velocity < zone.velocityLow || velocity > zone.velocityHigh) continue;
      if (zone.takes > 1 && zone.take !== ((take % zone.takes) + zone.takes) % zone.takes) continue;
      if (zone.interval !== undefined && zone.interval !== key - event.fromKey) continue;
      if (zone.when !== undefined && (zone.when === 'joined') !== joined) continue;
      if (zone.gates && !this.passes(zone.gates, controllers)) continue;
      this.zones[count] = zones[i];
      this.phase[count] = zone.startFrame;
      this.gainLeft[count] = this.gainRight[count] = 0;
      count++;
    }
    this.streams = count;
    if (count === 0) return false;
    this.compareLayers();
    this.move(controllers, 0, rate);
    for (let s = 0; s < count; s++)
      this.phase[s] = this.placeAfter(s, offsetFrames * this.ratioOf(s, controllers, 0));
    const { envelope } = this.zones[0].zone;
    this.stage = Stage.Sounding;
    this.role = event.role;
    this.sourceGain = level * (event.levelDb === undefined ? 1 : dbToGain(event.levelDb));
    this.baseGain = this.sourceGain;
    this.age = 0;
    this.fadeInFrames = event.fadeInSeconds * rate;
    this.fadeInLikeness = this.endLikeness = 0;
    this.riseSkip = 0;
    this.levelsDb = event.levelsDb ?? NO_LEVELS;
    this.levelStepFrames = LEVEL_STEP_SECONDS * rate;
    this.morph = event.morph ?? null;
    this.level =
      this.fadeInFrames > 0 || envelope.attackSeconds > 0 || (envelope.delaySeconds ?? 0) > 0 ? 0 : 1;
    this.energy = 1;
    this.fresh = true;
    this.filter.fill(0);
    return true;
  }

  /** Notes which of its layers are alike. */
  private compareLayers(): void {
    const count = this.streams;
    this.blends = false;
    for (let a = 0; a < count; a++) {
      this.layerPower[a] = this.zones[a].power;
      for (let b = 0; b < a; b++) {
        const likeness = this.zones[a].zone.alike?.[this.zones[b].sample] ?? 0;
        this.alike[a * count + b] = likeness;
        if (likeness !== 0) this.blends = true;
      }
    }
  }

  private passes(gates: NonNullable<PreparedZone['zone']['gates']>, controllers: Controllers): boolean {
    for (let g = 0; g < gates.length; g++) {
      const value = this.source(gates[g].controller, controllers);
      if (value < gates[g].low || value > gates[g].high) return false;
    }
    return true;
  }

  /** Value of a source for this voice, 0…127. */
  private source(number: number, controllers: Controllers): number {
    if (number === SOURCE.velocity) return this.velocity;
    return number === SOURCE.key ? this.key : controllers[number];
  }

  /** The zone whose envelope, filter and group hold for the whole voice. */
  get leading(): PreparedZone['zone'] {
    return this.zones[0].zone;
  }

  /** The zone heard most now. */
  get foremost(): PreparedZone['zone'] {
    return this.zones[Math.max(0, this.loudest)].zone;
  }

  /** Velocity of its note. */
  get struck(): number {
    return this.velocity;
  }

  /** How long it has sounded, in frames. */
  get ageFrames(): number {
    return this.age;
  }

  /** Begins to fade; a negative time takes the zone's own release, scaled. One-shots play on unless told a time. */
  stop(fadeFrames: number, rate: number, releaseScale = 1): void {
    if (this.stage !== Stage.Sounding) return;
    const { zone } = this.zones[0];
    if (fadeFrames < 0 && zone.oneShot) return;
    this.stage = Stage.Ending;
    this.endAge = 0;
    this.endLevel = this.level;
    this.endFrames = Math.max(
      32,
      fadeFrames < 0 ? zone.envelope.releaseSeconds * rate * releaseScale : fadeFrames,
    );
  }

  /**
   * Takes over from another voice: their crossfade allows for how alike they are.
   * @param shiftFrames how much further on in its recording it begins
   */
  takeOver(old: Voice, likeness: number, shiftFrames: number, { controllers, bendCents }: Hearing): void {
    for (let s = 0; s < this.streams; s++)
      this.phase[s] = this.placeAfter(s, shiftFrames * this.ratioOf(s, controllers, bendCents));
    this.fadeInLikeness = old.endLikeness = likeness;
  }

  /** Begins under a fade, at a level scaled by `gain`. */
  fadeIn(frames: number, gain: number): void {
    this.fadeInFrames = frames;
    this.baseGain *= gain;
    this.level = 0;
  }

  /** Makes what has just begun rise more slowly, or without a part of its own rise. */
  shapeAttack(fadeFrames: number, riseShare: number): void {
    if (fadeFrames > this.fadeInFrames) {
      this.fadeInFrames = fadeFrames;
      this.level = 0;
    }
    this.riseSkip = (1 - riseShare) * this.zones[0].zone.envelope.attackSeconds;
  }

  /** Scales all of it. */
  scale(gain: number): void {
    this.baseGain *= gain;
    this.sourceGain *= gain;
  }

  /** Its wave as one channel from `from` frames from now on, every `PROBE_STEP` frames, straight between frames. */
  wave(out: Float64Array, points: number, from: number, hearing: Hearing): void {
    const { loudness, positions, controllers, bendCents } = hearing;
    out.fill(0, 0, points);
    let most = 0;
    for (let s = 0; s < this.streams; s++) most = Math.max(most, this.gainOf(s, controllers));
    for (let s = 0; s < this.streams; s++) {
      const gain = this.gainOf(s, controllers);
      if (gain <= most * LEAST_SHARE) continue;
      const ratio = this.ratioOf(s, controllers, bendCents);
      const loop = this.loopOf(this.zones[s]);
      for (let p = 0; p < positions; p++) {
        const source = this.zones[s].sources[p];
        if (!source || loudness[p] === 0) continue;
        const { data, channels, frames } = source;
        const factor = this.zones[s].factors[p];
        const scale = gain * loudness[p] * (data instanceof Int16Array ? INT16_SCALE : 1);
        for (let i = 0; i < points; i++) {
          let place = this.phase[s] + (from + i * PROBE_STEP) * ratio;
          if (loop && place >= loop.end)
            place = loop.start + ((place - loop.start) % (loop.end - loop.start));
          place *= factor;
          const at = place | 0;
          if (place < 0 || at + 1 >= frames) continue;
          const first = at * channels;
          const a = data[first] + data[first + channels - 1];
          const b = data[first + channels] + data[first + 2 * channels - 1];
          out[i] += scale * (a + (place - at) * (b - a));
        }
      }
    }
  }

  /** A layer's place after some more of its frames, round the loop where there is one. */
  private placeAfter(stream: number, frames: number): number {
    const loop = this.loopOf(this.zones[stream]);
    const place = Math.max(this.zones[stream].zone.startFrame, this.phase[stream] + frames);
    return loop && place >= loop.end ? loop.start + ((place - loop.start) % (loop.end - loop.start)) : place;
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
    this.move(controllers, this.age, rate);
    this.updateGains(controllers, count);
    for (let p = 0; p < positions; p++) {
      mixLeft[p].fill(0, from, to);
      mixRight[p].fill(0, from, to);
    }
    for (let s = 0; s < this.streams; s++) {
      const beforeLeft = this.gainLeft[s] - this.stepLeft[s] * count;
      const beforeRight = this.gainRight[s] - this.stepRight[s] * count;
      const prepared = this.zones[s];
      const silent =
        beforeLeft === 0 && beforeRight === 0 && this.gainLeft[s] === 0 && this.gainRight[s] === 0;
      if (silent || this.phase[s] >= prepared.lengthFrames) continue;
      let first = 0;
      let planned = 0;
      const loop = this.loopOf(prepared);
      for (let p = 0; p < positions; p++) {
        const source = prepared.sources[p];
        if (!source) continue;
        const factor = prepared.factors[p];
        if (planned !== factor) first = this.planTaps(s, factor, from, to, controllers, bendCents);
        planned = factor;
        layOut(source, factor, loop, prepared.lengthFrames, first, index[to - 1] + TAPS);
        addStream(
          source,
          mixLeft[p],
          mixRight[p],
          beforeLeft,
          this.stepLeft[s],
          beforeRight,
          this.stepRight[s],
          from,
          to,
        );
      }
    }
    const filter = this.zones[0].zone.filter ?? 'lowpass2';
    const cutoff = this.cutoffNow(controllers);
    const filtered = this.zones[0].zone.cutoffHz !== undefined && (cutoff < 20000 || filter === 'notch');
    const resonance = this.resonanceNow(controllers);
    this.energy = 0;
    for (let p = 0; p < positions; p++) {
      if (filtered)
        filterStereo(
          filter,
          mixLeft[p],
          mixRight[p],
          this.filter,
          p * FILTER_STATE,
          cutoff,
          resonance,
          rate,
          from,
          to,
        );
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

  /** Loops that end with the key are left when the voice ends. */
  private loopOf(prepared: PreparedZone): Loop | null {
    const { loop } = prepared;
    return loop?.untilRelease && this.stage === Stage.Ending ? null : loop;
  }

  private ratioOf(stream: number, controllers: Controllers, bendCents: number): number {
    const prepared = this.zones[stream];
    const { zone } = prepared;
    let shift =
      (this.key - zone.rootKey) * (zone.keyTrack ?? 100) + zone.tuneCents + bendCents + this.movedCents;
    for (let m = 0; m < zone.modulations.length; m++) {
      const modulation = zone.modulations[m];
      if (modulation.target === 'tuneCents')
        shift +=
          modulation.depth * curveShare(modulation.curve, this.source(modulation.controller, controllers));
    }
    const ratio = shift === 0 ? prepared.rateRatio : prepared.rateRatio * centsToRatio(shift);
    return ratio < HIGHEST_RATIO ? ratio : HIGHEST_RATIO;
  }

  private cutoffNow(controllers: Controllers): number {
    const { zone } = this.zones[0];
    let cents = this.movedCutoff;
    for (let m = 0; m < zone.modulations.length; m++) {
      const modulation = zone.modulations[m];
      if (modulation.target === 'cutoffCents')
        cents +=
          modulation.depth * curveShare(modulation.curve, this.source(modulation.controller, controllers));
    }
    return (zone.cutoffHz ?? 24000) * (cents === 0 ? 1 : centsToRatio(cents));
  }

  private resonanceNow(controllers: Controllers): number {
    const { zone } = this.zones[0];
    let resonance = zone.resonanceDb ?? 0;
    for (let m = 0; m < zone.modulations.length; m++) {
      const modulation = zone.modulations[m];
      if (modulation.target === 'resonanceDb')
        resonance +=
          modulation.depth * curveShare(modulation.curve, this.source(modulation.controller, controllers));
    }
    return resonance;
  }

  private advanceEnvelope(count: number, rate: number): void {
    this.age += count;
    if (this.stage === Stage.Ending) {
      this.endAge += count;
      this.level = this.endLevel * joinGain(1 - this.endAge / this.endFrames, this.endLikeness);
      return;
    }
    let level = volumeEnvelope(this.zones[0].zone.envelope, this.age / rate + this.riseSkip);
    if (this.fadeInFrames > 0) level *= joinGain(this.age / this.fadeInFrames, this.fadeInLikeness);
    this.level = level;
  }

  /** Works out what envelopes of pitch and filter and LFOs add at an age. */
  private move(controllers: Controllers, age: number, rate: number): void {
    const { moves, lfos } = this.zones[0].zone;
    this.movedCents = this.movedCutoff = this.movedDb = 0;
    if (moves)
      for (let m = 0; m < moves.length; m++) {
        const held = this.stage === Stage.Ending ? age - this.endAge : age;
        let value = moveEnvelope(moves[m], held / rate);
        if (this.stage === Stage.Ending)
          value *= Math.max(0, 1 - this.endAge / Math.max(1, moves[m].releaseSeconds * rate));
        if (moves[m].target === 'tuneCents') this.movedCents += moves[m].depth * value;
        else this.movedCutoff += moves[m].depth * value;
      }
    if (lfos)
      for (let l = 0; l < lfos.length; l++) {
        const { controller } = lfos[l];
        const ridden = controller === undefined ? 0 : this.source(controller, controllers);
        const value = lfoValue(lfos[l], age / rate, ridden);
        if (lfos[l].target === 'tuneCents') this.movedCents += value;
        else if (lfos[l].target === 'cutoffCents') this.movedCutoff += value;
        else this.movedDb += value;
      }
  }

  /** Gain of a layer by velocity and controllers, apart from moves, envelope and ramp. */
  private gainOf(stream: number, controllers: Controllers): number {
    const prepared = this.zones[stream];
    const { zone } = prepared;
    let gain = prepared.gain * this.baseGain * velocityGain(this.velocity, zone.velocityTrack);
    if (this.morph) gain *= fadeGain(this.morph, this.source(this.morph.controller, controllers));
    for (let f = 0; f < zone.fades.length; f++)
      gain *= fadeGain(zone.fades[f], this.source(zone.fades[f].controller, controllers));
    let db = 0;
    for (let m = 0; m < zone.modulations.length; m++) {
      const { target, depth, curve, controller } = zone.modulations[m];
      if (target !== 'gainDb' && target !== 'amplitude') continue;
      const amount = depth * curveShare(curve, this.source(controller, controllers));
      if (target === 'gainDb') db += amount;
      else gain *= Math.max(0, 1 - depth + amount);
    }
    return db === 0 ? gain : gain * 10 ** (db / 20);
  }

  /** Level that the sound was asked to have by now, as a factor. */
  private rampNow(): number {
    const last = this.levelsDb.length - 1;
    if (last < 0) return 1;
    const place = Math.min(last, this.age / this.levelStepFrames);
    const at = Math.min(last, Math.floor(place));
    const from = this.levelsDb[at];
    const to = this.levelsDb[Math.min(last, at + 1)];
    return 10 ** ((from + (place - at) * (to - from)) / 20);
  }

  /** New layer gains and their steps over the run. */
  private updateGains(controllers: Controllers, count: number): void {
    let best = -1;
    let bestGain = 0;
    for (let s = 0; s < this.streams; s++) this.layerGain[s] = this.gainOf(s, controllers);
    let ramp = this.rampNow();
    if (this.blends) ramp *= blendGain(this.streams, this.layerGain, this.layerPower, this.alike);
    for (let s = 0; s < this.streams; s++) {
      const { zone } = this.zones[s];
      let gain = this.layerGain[s] * ramp;
      const db = this.movedDb;
      let pan = zone.pan ?? 0;
      for (let m = 0; m < zone.modulations.length; m++) {
        const { target, depth, curve, controller } = zone.modulations[m];
        if (target !== 'pan') continue;
        pan += depth * curveShare(curve, this.source(controller, controllers));
      }
      if (db !== 0) gain *= 10 ** (db / 20);
      let left = gain;
      let right = gain;
      if (pan !== 0) {
        // The balance law of `mixing`: constant power, unity in the middle.
        const angle = ((clamp(pan, -1, 1) + 1) * Math.PI) / 4;
        left *= Math.SQRT2 * Math.cos(angle);
        right *= Math.SQRT2 * Math.sin(angle);
      }
      this.stepLeft[s] = this.fresh ? 0 : (left - this.gainLeft[s]) / count;
      this.stepRight[s] = this.fresh ? 0 : (right - this.gainRight[s]) / count;
      this.gainLeft[s] = left;
      this.gainRight[s] = right;
      if (gain > bestGain) [best, bestGain] = [s, gain];
    }
    this.fresh = false;
    this.loudest = best;
  }

  /** Moves every layer on; false when all have run out. */
  private advancePhases(count: number, controllers: Controllers, bendCents: number): boolean {
    let alive = false;
    for (let s = 0; s < this.streams; s++) {
      const { lengthFrames } = this.zones[s];
      const loop = this.loopOf(this.zones[s]);
      let phase = this.phase[s] + count * this.ratioOf(s, controllers, bendCents);
      if (loop && phase >= loop.end) phase = loop.start + ((phase - loop.start) % (loop.end - loop.start));
      this.phase[s] = phase;
      if (phase < lengthFrames) alive = true;
    }
    return alive;
  }

  /**
   * Works out places and interpolation weights of one layer for frames [from, to), into module scratch.
   * @param factor frames of the source per frame of the zone
   * @returns the sample's frame to which the places are relative; loops are not yet taken into account
   */
  private planTaps(
    stream: number,
    factor: number,
    from: number,
    to: number,
    controllers: Controllers,
    bendCents: number,
  ): number {
    const ratio = this.ratioOf(stream, controllers, bendCents) * factor;
    const table = SINC_TABLE;
    let phase = this.phase[stream] * factor;
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
 * Adds one layer from one position, using the planned taps, with a straight gain ramp per channel. The frames needed
 * were laid out as doubles, loops and edges resolved: the loop that does the work has no branch and no conversion.
 */
function addStream(
  source: SampleAudio,
  left: Float64Array,
  right: Float64Array,
  leftBefore: number,
  leftStep: number,
  rightBefore: number,
  rightStep: number,
  from: number,
  to: number,
): void {
  const scale = source.data instanceof Int16Array ? INT16_SCALE : 1;
  const stepLeft = leftStep * scale;
  const stepRight = rightStep * scale;
  let gainLeft = leftBefore * scale;
  let gainRight = rightBefore * scale;
  const l = laidLeft;
  const r = source.channels === 2 ? laidRight : laidLeft;
  const weights = taps;
  const places = index;
  for (let i = from; i < to; i++) {
    gainLeft += stepLeft;
    gainRight += stepRight;
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
    left[i] += gainLeft * (leftLow + leftHigh);
    right[i] += gainRight * (rightLow + rightHigh);
  }
}

/**
 * Puts frames [first, first + count) of a source into the scratch, as they are heard: looped, and silent outside.
 * @param factor frames of the source per frame in which loop and length are given
 */
function layOut(
  source: SampleAudio,
  factor: number,
  loop: Loop | null,
  lengthFrames: number,
  first: number,
  count: number,
): void {
  const { data, channels } = source;
  const frames = Math.min(source.frames, Math.round(lengthFrames * factor));
  const loopStart = loop ? Math.round(loop.start * factor) : 0;
  const loopEnd = loop ? Math.min(Math.round(loop.end * factor), frames) : frames;
  const l = laidLeft;
  const r = laidRight;
  if (first >= 0 && first + count <= loopEnd) {
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
    if (loop && frame >= loopEnd) frame = loopStart + ((frame - loopEnd) % (loopEnd - loopStart));
    const inside = frame >= 0 && frame < frames;
    l[i] = inside ? data[frame * channels] : 0;
    r[i] = inside ? data[frame * channels + channels - 1] : 0;
  }
}
