import { SOURCES } from '../catalogue/index.ts';
import { DRIFT_CENTS } from '../keymap/index.ts';
import { balanceGains, levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { LEVEL_STEP_SECONDS, PITCH_BEND } from './events.ts';
import { FILTER_STATE, filterStereo } from './filter.ts';
import { PositionBus } from './position-bus.ts';
import type { PreparedInstrument } from './prepared.ts';
import { TrackEq } from './track-eq.ts';
import { BLOCK, MAX_POSITIONS } from './voice.ts';

/** Share of the way to a controller's target covered per block: a time constant of about 8 ms. */
const CONTROL_GLIDE = 0.28;
/** What the engine itself answers to, unless zones of the instrument listen to it. */
const ANSWERED = [
  CONTROLLER.release,
  CONTROLLER.recordedEnds,
  CONTROLLER.attack,
  CONTROLLER.brightness,
  CONTROLLER.noise,
  CONTROLLER.drift,
] as const;
/** Cutoff of the darkest brightness, and octaves up to where it is open. */
const DARKEST_HZ = 250;
const BRIGHTNESS_OCTAVES = 6.5;
const OPEN = 126.5;
const SLOWEST_ATTACK_SECONDS = 1;
/** How long a recorded end may last when the release is just below 64; at 0 it is nearly none. */
const ENDS_SECONDS = 1.5;
const FADED_DB = -60;
/** By release value below 64: levels from the recorded one down to −60 dB, every `LEVEL_STEP_SECONDS`. */
const END_FADES = Array.from({ length: 64 }, (_, value) => {
  const steps = 2 + Math.round(((value / 64) * ENDS_SECONDS) / LEVEL_STEP_SECONDS);
  return Array.from({ length: steps }, (_v, i) => (FADED_DB * i) / (steps - 1));
});
/** Pitch bend goes two semitones either way. */
const BEND_CENTS = 200;
const NO_BANDS: readonly never[] = [];

/** One track as the engine plays it. */
export class EngineTrack {
  readonly buses: PositionBus[] = [];
  readonly outLeft = new Float64Array(BLOCK);
  readonly outRight = new Float64Array(BLOCK);
  readonly controllers = new Float64Array(SOURCES);
  readonly targets = new Float64Array(SOURCES);
  instrument: PreparedInstrument | null = null;
  peak = 0;
  /** Voices sounding in the last block. */
  sounding = 0;
  private readonly used = new Int32Array(SOURCES);
  private usedCount = 0;
  /** By controller number: 1 where the instrument's own zones listen to it. */
  private readonly listened = new Uint8Array(SOURCES);
  private readonly brightness = new Float64Array(FILTER_STATE);

  private readonly eq = new TrackEq();
  private gainLeft = 1;
  private gainRight = 1;
  private wantedLeft = 1;
  private wantedRight = 1;
  private sendNow = 0;
  private sendWanted = 0;

  constructor() {
    for (let i = 0; i < MAX_POSITIONS; i++) this.buses.push(new PositionBus());
    for (let c = 0; c < SOURCES; c++)
      this.targets[c] = this.controllers[c] = c === PITCH_BEND ? 64 : controllerRest(c);
    this.setInstrument(null);
  }

  setInstrument(instrument: PreparedInstrument | null): void {
    this.instrument = instrument;
    this.usedCount = 0;
    this.listened.fill(0);
    for (const c of instrument?.controllers ?? []) this.listened[c] = 1;
    for (const c of [CONTROLLER.expression, PITCH_BEND, ...ANSWERED, ...(instrument?.controllers ?? [])])
      this.follow(c);
  }

  /** Where a controller that the engine answers to stands; at rest while the instrument's own zones listen to it. */
  private answered(controller: (typeof ANSWERED)[number]): number {
    return this.listened[controller] === 1 ? controllerRest(controller) : this.controllers[controller];
  }

  /** Factor on the release time of notes that are let go, ¼ … 4. */
  get releaseScale(): number {
    return 4 ** ((this.answered(CONTROLLER.release) - 64) / 63.5);
  }

  /** Levels that fade a recorded end; undefined lets it last as recorded. */
  get endsFade(): readonly number[] | undefined {
    return END_FADES[Math.floor(this.answered(CONTROLLER.release))];
  }

  /** Gain of recorded ends; 0 is off. */
  get endsGain(): number {
    return this.answered(CONTROLLER.recordedEnds) / 64;
  }

  /** Gain of recorded noises. */
  get noiseGain(): number {
    return this.answered(CONTROLLER.noise) / 64;
  }

  /** Seconds over which notes are faded in. */
  get attackSeconds(): number {
    const value = this.answered(CONTROLLER.attack);
    return value <= 64 ? 0 : ((value - 64) / 63) ** 2 * SLOWEST_ATTACK_SECONDS;
  }

  /** Share of an instrument's own rise that is left. */
  get riseShare(): number {
    return Math.min(1, this.answered(CONTROLLER.attack) / 64);
  }

  /** Furthest that the pitch wanders, in cents. */
  get driftCents(): number {
    return (this.answered(CONTROLLER.drift) / 127) * DRIFT_CENTS;
  }

  /** Lets a controller glide from now on: something listens to it. */
  follow(controller: number): void {
    for (let i = 0; i < this.usedCount; i++) if (this.used[i] === controller) return;
    this.used[this.usedCount++] = controller;
  }

  setMix(mix: TrackMix, rate: number): void {
    const balance = balanceGains(mix.pan);
    const gain = mix.muted ? 0 : levelGain(mix.gainDb);
    this.wantedLeft = gain * balance.left;
    this.wantedRight = gain * balance.right;
    this.sendWanted = levelGain(mix.hallSendDb);
    this.eq.setBands(mix.eq ?? NO_BANDS);
    const positions = this.instrument?.positions ?? [];
    positions.forEach((id, i) => {
      const own = mix.positions[id];
      this.buses[i].setMix(
        own ?? { levelDb: -60, pan: 0, width: 1, muted: true, inverted: false, delayMs: 0 },
        rate,
      );
    });
  }

  /** Where pitch bend stands, in cents. */
  get bendCents(): number {
    return ((this.controllers[PITCH_BEND] - 64) / 64) * BEND_CENTS;
  }

  private darken(): void {
    const value = this.answered(CONTROLLER.brightness);
    if (value >= OPEN) {
      this.brightness.fill(0);
      return;
    }
    const cutoff = DARKEST_HZ * 2 ** ((value / 127) * BRIGHTNESS_OCTAVES);
    filterStereo(
      'lowpass2',
      this.outLeft,
      this.outRight,
      this.brightness,
      0,
      cutoff,
      0,
      ENGINE_RATE,
      0,
      BLOCK,
    );
  }

  reset(): void {
    this.brightness.fill(0);
    for (const bus of this.buses) bus.reset();
    this.eq.reset();
    this.gainLeft = this.wantedLeft;
    this.gainRight = this.wantedRight;
    this.sendNow = this.sendWanted;
    this.controllers.set(this.targets);
    this.sounding = 0;
    this.peak = 0;
  }

  /** Brings controllers nearer to their targets; at once while nothing sounds. */
  glideControllers(): void {
    const share = this.sounding > 0 ? CONTROL_GLIDE : 1;
    for (let i = 0; i < this.usedCount; i++) {
      const c = this.used[i];
      const gap = this.targets[c] - this.controllers[c];
      this.controllers[c] = Math.abs(gap) < 1e-3 ? this.targets[c] : this.controllers[c] + share * gap;
    }
  }

  /** Sums the positions, applies gain and expression, adds to the master and the hall. */
  mixInto(
    masterLeft: Float64Array,
    masterRight: Float64Array,
    hallLeft: Float64Array,
    hallRight: Float64Array,
  ): void {
    const { outLeft, outRight } = this;
    outLeft.fill(0);
    outRight.fill(0);
    const count = this.instrument?.positions.length ?? 0;
    for (let p = 0; p < count; p++) this.buses[p].mixInto(outLeft, outRight);
    this.eq.process(outLeft, outRight, BLOCK, ENGINE_RATE);
    this.darken();
    const expression = (this.controllers[CONTROLLER.expression] / 127) ** 2;
    const share = 0.25 / BLOCK;
    const stepLeft = (this.wantedLeft * expression - this.gainLeft) * share;
    const stepRight = (this.wantedRight * expression - this.gainRight) * share;
    const stepSend = (this.sendWanted - this.sendNow) * share;
    let peak = this.peak;
    for (let i = 0; i < BLOCK; i++) {
      this.gainLeft += stepLeft;
      this.gainRight += stepRight;
      this.sendNow += stepSend;
      const l = outLeft[i] * this.gainLeft;
      const r = outRight[i] * this.gainRight;
      outLeft[i] = l;
      outRight[i] = r;
      masterLeft[i] += l;
      masterRight[i] += r;
      hallLeft[i] += l * this.sendNow;
      hallRight[i] += r * this.sendNow;
      const loud = Math.max(l, -l, r, -r);
      if (loud > peak) peak = loud;
    }
    this.peak = peak;
  }
}
