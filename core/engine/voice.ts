import type { Fade, Zone } from '../catalogue/index.ts';
import { centsToRatio, dbToGain, exp10 } from '../units/index.ts';
import { LEVEL_STEP_SECONDS, type StartEvent } from './events.ts';
import { FilterPoint } from './filter.ts';
import { blendGain, fallGain, joinGain } from './gains.ts';
import type { Hearing } from './joining.ts';
import { Layer, MAX_LAYERS, modulated, sourceValue, type Controllers, type Note } from './layer.ts';
import { lfoValue, moveEnvelope, volumeEnvelope } from './moves.ts';
import type { PreparedZone } from './prepared.ts';
import { BLOCK, type PositionPlace, type VoiceFilter, type VoiceRenderer } from './voice-renderer.ts';
import { addWave } from './wave.ts';

/** Layers this far below the loudest do not decide where two waves agree. */
const LEAST_SHARE = 0.2;
/** Shortest fade of a voice that ends, in frames: too short to hear, long enough not to click. */
const LEAST_FADE = 32;
/** A low-pass from here on changes nothing that is heard. */
const OPEN_HZ = 20_000;
const NO_LEVELS: readonly number[] = [];

/** Where in its life a voice is. */
const enum Stage {
  Idle,
  Sounding,
  Ending,
}

/** One sounding zone set: all layers of one take, from all positions, in step. */
export class Voice implements Note {
  sound = 0;
  key = 0;
  articulation = 0;
  /** Power heard of it in the last run, to choose which voice to give up. */
  energy = 0;
  /** Level of the envelope now, 0…1. */
  level = 0;
  /** Index of the loudest layer, or −1, for display. */
  loudest = -1;
  /** Counts up with every start, to find the oldest. */
  order = 0;
  role: StartEvent['role'] = 'attack';
  /** Velocity of its note. */
  velocity = 0;
  /** Gain by what started it. */
  baseGain = 1;
  /** What it was asked for beside its zones, by which its recorded end is to sound too. */
  sourceGain = 1;
  morph: Fade | null = null;

  private stage: Stage = Stage.Idle;
  private readonly layers = Array.from({ length: MAX_LAYERS }, () => new Layer());
  private count = 0;
  private age = 0;
  private fadeInFrames = 0;
  private fadeInLikeness = 0;
  private riseSkip = 0;
  private endLikeness = 0;
  private levelsDb: readonly number[] = NO_LEVELS;
  private levelStepFrames = 1;
  private endAge = 0;
  private endFrames = 1;
  private endLevel = 1;
  /** Decibels by which it falls to its end, straight; 0 for a fade. */
  private endDb = 0;
  private readonly layerGain = new Float64Array(MAX_LAYERS);
  private readonly layerPower = new Float64Array(MAX_LAYERS);
  /** How alike the layers are, `count` × `count`. */
  private readonly alike = new Float64Array(MAX_LAYERS * MAX_LAYERS);
  private blends = false;
  private readonly filter: VoiceFilter;
  /** Whether the filter has worked before, so that it glides. */
  private filters = false;
  /** What moves of the voice's own (envelopes, LFOs) add now. */
  private movedCents = 0;
  private movedCutoff = 0;
  private movedDb = 0;

  /** @param filterState address of the `FILTER_BYTES` that its filters remember */
  constructor(filterState: number) {
    this.filter = {
      kind: 'lowpass2',
      before: new FilterPoint(),
      after: new FilterPoint(),
      state: filterState,
    };
  }

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
    this.key = event.key;
    this.velocity = event.velocity;
    let count = 0;
    for (let i = 0; i < zones.length && count < MAX_LAYERS; i++)
      if (zones[i].chain === chain && this.fits(zones[i], event, controllers, joined))
        this.layers[count++].begin(zones[i]);
    this.count = count;
    if (count === 0) return false;
    this.compareLayers();
    this.stage = Stage.Sounding;
    this.role = event.role;
    this.move(controllers, 0, rate);
    for (let s = 0; s < count; s++) this.startLayer(this.layers[s], event.offsetSeconds * rate, controllers);
    const { envelope } = this.leading;
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
    this.filters = false;
    return true;
  }

  private fits(ready: PreparedZone, event: StartEvent, controllers: Controllers, joined: boolean): boolean {
    if (ready.lengthFrames === 0) return false;
    const { zone } = ready;
    const { velocity, take } = event;
    if (velocity < zone.velocityLow || velocity > zone.velocityHigh) return false;
    if (zone.takes > 1 && zone.take !== ((take % zone.takes) + zone.takes) % zone.takes) return false;
    if (zone.interval !== undefined && zone.interval !== event.key - event.fromKey) return false;
    if (zone.when !== undefined && (zone.when === 'joined') !== joined) return false;
    const gates = zone.gates;
    if (gates)
      for (let g = 0; g < gates.length; g++) {
        const value = sourceValue(gates[g].controller, this, controllers);
        if (value < gates[g].low || value > gates[g].high) return false;
      }
    return true;
  }

  private startLayer(layer: Layer, offsetFrames: number, controllers: Controllers): void {
    const ratio = layer.ratioFor(this, controllers, this.movedCents);
    layer.moveBy(offsetFrames * ratio, false);
    // At its own pitch and rate it is read frame by frame, if it begins at one: at most 10 µs off.
    if (ratio === 1) layer.phase = Math.round(layer.phase);
  }

  /** Notes which of its layers are alike. */
  private compareLayers(): void {
    const { count, layers } = this;
    this.blends = false;
    for (let a = 0; a < count; a++) {
      this.layerPower[a] = layers[a].zone.power;
      for (let b = 0; b < a; b++) {
        const likeness = layers[a].zone.zone.alike?.[layers[b].zone.sample] ?? 0;
        this.alike[a * count + b] = likeness;
        if (likeness !== 0) this.blends = true;
      }
    }
  }

  /** The zone whose envelope, filter and group hold for the whole voice. */
  get leading(): Zone {
    return this.layers[0].zone.zone;
  }

  /** The zone heard most now. */
  get foremost(): Zone {
    return this.layers[Math.max(0, this.loudest)].zone.zone;
  }

  /** How long it has sounded, in frames. */
  get ageFrames(): number {
    return this.age;
  }

  /** Begins to fade; a negative time takes the zone's own release, scaled. One-shots play on unless told a time. */
  stop(fadeFrames: number, rate: number, releaseScale = 1): void {
    if (this.stage !== Stage.Sounding) return;
    const { oneShot, envelope } = this.leading;
    if (fadeFrames < 0 && oneShot) return;
    this.stage = Stage.Ending;
    this.endAge = 0;
    this.endLevel = this.level;
    this.endDb = fadeFrames < 0 ? (envelope.releaseDb ?? 0) : 0;
    this.endFrames = Math.max(
      LEAST_FADE,
      fadeFrames < 0 ? envelope.releaseSeconds * rate * releaseScale : fadeFrames,
    );
  }

  /**
   * Takes over from another voice: their crossfade allows for how alike they are.
   * @param shiftFrames how much further on in its recording it begins
   */
  takeOver(old: Voice, likeness: number, shiftFrames: number, { controllers, bendCents }: Hearing): void {
    for (let s = 0; s < this.count; s++) {
      const layer = this.layers[s];
      layer.moveBy(shiftFrames * layer.ratioFor(this, controllers, bendCents + this.movedCents), false);
    }
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
    this.riseSkip = (1 - riseShare) * this.leading.envelope.attackSeconds;
  }

  /** Scales all of it. */
  scale(gain: number): void {
    this.baseGain *= gain;
    this.sourceGain *= gain;
  }

  /** Its wave as one channel from `from` frames from now on, every `PROBE_STEP` frames, straight between frames. */
  wave(out: Float64Array, points: number, from: number, hearing: Hearing): void {
    const { controllers, bendCents } = hearing;
    out.fill(0, 0, points);
    let most = 0;
    for (let s = 0; s < this.count; s++) most = Math.max(most, this.layers[s].gainFor(this, controllers));
    for (let s = 0; s < this.count; s++) {
      const layer = this.layers[s];
      const gain = layer.gainFor(this, controllers);
      if (gain <= most * LEAST_SHARE) continue;
      const ratio = layer.ratioFor(this, controllers, bendCents + this.movedCents);
      addWave(layer, this.ending, gain, ratio, out, points, from, hearing);
    }
  }

  /** Falls silent at once, within one run. */
  cut(): void {
    this.stage = Stage.Idle;
  }

  /** True when the recorded end of this note may be played. */
  get wantsRelease(): boolean {
    return this.stage === Stage.Sounding && !this.leading.oneShot;
  }

  /**
   * Renders a run and adds it to the positions.
   * @param at frame of the block at which the run begins, `frames` long
   * @param heard whether anything of its track is; what is not heard goes on in time only
   * @param bendCents what the track adds to the pitch
   */
  render(
    renderer: VoiceRenderer,
    positions: readonly PositionPlace[],
    heard: boolean,
    at: number,
    frames: number,
    controllers: Controllers,
    bendCents: number,
    rate: number,
  ): void {
    const levelBefore = this.level;
    this.advanceEnvelope(frames, rate);
    this.move(controllers, this.age, rate);
    this.aimLayers(controllers, bendCents, frames / (BLOCK - at));
    this.energy = 0;
    if (heard) {
      const filter = this.aimFilter(renderer, controllers, rate) ? this.filter : null;
      this.energy = renderer.render(
        this.layers,
        this.count,
        positions,
        this.ending,
        at,
        frames,
        levelBefore,
        this.level,
        filter,
      );
      if (filter) filter.before.copy(filter.after);
    }
    let alive = false;
    for (let s = 0; s < this.count; s++) if (this.layers[s].advance(frames, this.ending)) alive = true;
    if (!alive || (this.stage === Stage.Ending && this.endAge >= this.endFrames)) this.stage = Stage.Idle;
  }

  /** Sets the filter for the run. @returns false when it changes nothing that is heard */
  private aimFilter(renderer: VoiceRenderer, controllers: Controllers, rate: number): boolean {
    const { cutoffHz, resonanceDb, modulations, filter: kind = 'lowpass2' } = this.leading;
    if (cutoffHz === undefined) return false;
    const cents = this.movedCutoff + modulated(modulations, 'cutoffCents', this, controllers);
    const cutoff = cents === 0 ? cutoffHz : cutoffHz * centsToRatio(cents);
    // An open low-pass is left out, unless it has just worked and is to glide open.
    if (cutoff >= OPEN_HZ && kind !== 'notch' && !this.filters) return false;
    const resonance = (resonanceDb ?? 0) + modulated(modulations, 'resonanceDb', this, controllers);
    const { filter } = this;
    filter.kind = kind;
    filter.after.set(cutoff, resonance, rate);
    if (!this.filters) {
      renderer.clearFilter(filter.state);
      filter.before.copy(filter.after);
    }
    this.filters = true;
    return true;
  }

  private advanceEnvelope(count: number, rate: number): void {
    this.age += count;
    if (this.stage === Stage.Ending) {
      this.endAge += count;
      const left = Math.max(0, 1 - this.endAge / this.endFrames);
      this.level =
        this.endLevel * (this.endDb > 0 ? fallGain(left, this.endDb) : joinGain(left, this.endLikeness));
      return;
    }
    let level = volumeEnvelope(this.leading.envelope, this.age / rate + this.riseSkip);
    if (this.fadeInFrames > 0) level *= joinGain(this.age / this.fadeInFrames, this.fadeInLikeness);
    this.level = level;
  }

  /** Works out what envelopes of pitch and filter and LFOs add at an age. */
  private move(controllers: Controllers, age: number, rate: number): void {
    const { moves, lfos } = this.leading;
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
        const ridden = controller === undefined ? 0 : sourceValue(controller, this, controllers);
        const value = lfoValue(lfos[l], age / rate, ridden);
        if (lfos[l].target === 'tuneCents') this.movedCents += value;
        else if (lfos[l].target === 'cutoffCents') this.movedCutoff += value;
        else this.movedDb += value;
      }
  }

  /** Level that the sound was asked to have by now, as a factor. */
  private rampNow(): number {
    const last = this.levelsDb.length - 1;
    if (last < 0) return 1;
    const place = Math.min(last, this.age / this.levelStepFrames);
    const at = Math.min(last, Math.floor(place));
    const from = this.levelsDb[at];
    const to = this.levelsDb[Math.min(last, at + 1)];
    return exp10((from + (place - at) * (to - from)) / 20);
  }

  /** Gains and paces of all layers. @param share of what is left of the block that the run is */
  private aimLayers(controllers: Controllers, bendCents: number, share: number): void {
    const { layers, count, layerGain } = this;
    for (let s = 0; s < count; s++) layerGain[s] = layers[s].gainFor(this, controllers);
    let ramp = this.rampNow();
    if (this.blends) ramp *= blendGain(count, layerGain, this.layerPower, this.alike);
    if (this.movedDb !== 0) ramp *= exp10(this.movedDb / 20);
    const cents = bendCents + this.movedCents;
    let most = 0;
    this.loudest = -1;
    for (let s = 0; s < count; s++) {
      const gain = layerGain[s] * ramp;
      layers[s].aim(gain, layers[s].ratioFor(this, controllers, cents), this, controllers, share);
      if (gain > most) {
        most = gain;
        this.loudest = s;
      }
    }
  }
}
