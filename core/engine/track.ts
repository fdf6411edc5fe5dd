import { SOURCES } from '../catalogue/index.ts';
import { DRIFT_CENTS } from '../keymap/index.ts';
import { balanceGains, levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import { ENGINE_RATE, exp2 } from '../units/index.ts';
import { LEVEL_STEP_SECONDS, PITCH_BEND, POSITION_LEVEL } from './events.ts';
import { filterPair, FilterPoint } from './filter.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import type { SoundMemory } from './memory/index.ts';
import { PositionBus } from './position-bus.ts';
import type { PreparedInstrument } from './prepared.ts';
import { Tone } from './tone.ts';
import { BLOCK, FRAME_BYTES, MAX_POSITIONS } from './voice-renderer.ts';

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
const END_FADES = /* @__PURE__ */ Array.from({ length: 64 }, (_, value) => {
  const steps = 2 + Math.round(((value / 64) * ENDS_SECONDS) / LEVEL_STEP_SECONDS);
  return Array.from({ length: steps }, (_v, i) => (FADED_DB * i) / (steps - 1));
});
/** Pitch bend goes two semitones either way. */
const BEND_CENTS = 200;
const NO_BANDS: readonly never[] = [];

/** Share of the way to a new level covered per block. */
const GLIDE = 0.25;
/** A glide that has come this near, −120 dB, is over. */
const NEAR = 1e-6;
/** Below this, −180 dB, what rings on in filters is over. */
const SILENT = 1e-9;
/** Bytes that the filter of the brightness remembers. */
const BRIGHTNESS_BYTES = 32;

/** One track as the engine plays it. It takes room when it is given an instrument. */
export class EngineTrack {
  /** Positions of its instrument, in order. */
  readonly buses: PositionBus[] = [];
  readonly controllers = new Float64Array(SOURCES);
  readonly targets = new Float64Array(SOURCES);
  instrument: PreparedInstrument | null = null;
  peak = 0;
  /** Voices sounding in the last run. */
  sounding = 0;
  /** Set by voices that added to the block. */
  fed = false;
  private readonly used = new Int32Array(SOURCES);
  private usedCount = 0;
  /** By controller number: 1 where the instrument's own zones listen to it. */
  private readonly listened = new Uint8Array(SOURCES);
  /** All positions there ever were; those of the present instrument come first. */
  private readonly made: PositionBus[] = [];
  private eq: Tone | null = null;
  /** Two blocks, once a position sends something else to the hall than the others; 0 before. */
  private apart = 0;
  private sendsApart = false;
  /** Filter of the brightness, 0 until it is needed; where it stands now and a block later. */
  private brightness = 0;
  private readonly dark = new FilterPoint();
  private readonly darkAfter = new FilterPoint();
  private darkens = false;
  private gainLeft = 1;
  private gainRight = 1;
  private wantedLeft = 1;
  private wantedRight = 1;
  private sendNow = 0;
  private sendWanted = 0;
  /** Frames since a voice was last heard, and how loud the last block was. */
  private quietFrames = 0;
  private lastPeak = 0;
  private idle = true;
  /** Voices sounded in the last block that were not heard: the track is muted. */
  private heldBack = false;
  private readonly kernel: Kernel;

  /** @param room gives places filled with zeros */
  constructor(
    private readonly sound: SoundMemory,
    private readonly room: (bytes: number) => number,
  ) {
    this.kernel = kernelIn(sound.memory);
    this.restControllers();
    this.setInstrument(null);
  }

  /** Puts all controllers where they rest. */
  restControllers(): void {
    for (let c = 0; c < SOURCES; c++) this.targets[c] = this.controllers[c] = this.restOf(c);
    for (const bus of this.made) bus.setMove(0);
  }

  private restOf(controller: number): number {
    if (controller === PITCH_BEND) return 64;
    return this.instrument?.rests[controller] ?? controllerRest(controller);
  }

  /** Lets a controller glide to a value, or the level of a position. */
  setControl(controller: number, value: number): void {
    if (controller < POSITION_LEVEL) {
      this.targets[controller] = value;
      return;
    }
    const bus = this.buses[controller - POSITION_LEVEL];
    bus?.setMove(value);
    // Nothing sounds that it could jump in.
    if (this.idle) bus?.settle();
  }

  setInstrument(instrument: PreparedInstrument | null): void {
    // What rests goes over to where it rests for the new one; what was moved stays.
    const rested = new Map<number, number>();
    for (const c of restsOf(this.instrument, instrument)) rested.set(c, this.restOf(c));
    this.instrument = instrument;
    for (const [c, before] of rested)
      if (this.targets[c] === before) this.targets[c] = this.controllers[c] = this.restOf(c);
    const count = Math.min(MAX_POSITIONS, instrument?.positions.length ?? 0);
    while (this.made.length < count) this.made.push(new PositionBus(this.sound, this.room));
    this.buses.length = 0;
    for (let p = 0; p < count; p++) this.buses.push(this.made[p]);
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
    return exp2((this.answered(CONTROLLER.release) - 64) / 31.75);
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
    const share = (value - 64) / 63;
    return share <= 0 ? 0 : share * share * SLOWEST_ATTACK_SECONDS;
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
    const bands = mix.eq ?? NO_BANDS;
    if (bands.length > 0) this.eq ??= new Tone(this.kernel, this.room);
    this.eq?.setBands(bands);
    const positions = this.instrument?.positions ?? [];
    this.buses.forEach((bus, i) => {
      const own = mix.positions[positions[i]];
      bus.setMix(own ?? { levelDb: -60, pan: 0, width: 1, muted: true, inverted: false, delayMs: 0 }, rate);
    });
  }

  /** Where pitch bend stands, in cents. */
  get bendCents(): number {
    return ((this.controllers[PITCH_BEND] - 64) / 64) * BEND_CENTS;
  }

  /** Whether anything of it is heard, now or at the end of a glide. */
  get isAudible(): boolean {
    return this.gainLeft !== 0 || this.gainRight !== 0 || this.wantedLeft !== 0 || this.wantedRight !== 0;
  }

  /** Power of its level, for telling how much of its voices is heard. */
  get power(): number {
    return (this.wantedLeft * this.wantedLeft + this.wantedRight * this.wantedRight) / 2;
  }

  /** @param hall another sound that is to be as dark, or 0 */
  private darken(sound: number, hall: number): void {
    const value = this.answered(CONTROLLER.brightness);
    if (value >= OPEN && !this.darkens) return;
    const { kernel } = this;
    if (this.brightness === 0) this.brightness = this.room(BRIGHTNESS_BYTES + (BLOCK + 2) * FRAME_BYTES);
    this.darkAfter.set(DARKEST_HZ * exp2((value / 127) * BRIGHTNESS_OCTAVES), 0, ENGINE_RATE);
    if (!this.darkens) this.dark.copy(this.darkAfter);
    // The kernel filters two sounds at once; the other is silence where the hall is given the same.
    const other = hall !== 0 ? hall : this.brightness + BRIGHTNESS_BYTES;
    filterPair(kernel, 'lowpass2', sound, other, this.brightness, this.dark, this.darkAfter, BLOCK);
    this.dark.copy(this.darkAfter);
    this.darkens = value < OPEN;
    if (!this.darkens) kernel.clear(this.brightness, BRIGHTNESS_BYTES);
  }

  reset(): void {
    for (const bus of this.made) bus.reset();
    this.controllers.set(this.targets);
    this.sounding = 0;
    this.peak = 0;
    this.fed = false;
    this.heldBack = false;
    this.fallSilent();
  }

  /** Nothing rings on, and everything stands where it is wanted. */
  private fallSilent(): void {
    for (const bus of this.buses) bus.settle();
    this.eq?.reset();
    this.sendsApart = false;
    this.darkens = false;
    if (this.brightness !== 0) this.kernel.clear(this.brightness, BRIGHTNESS_BYTES);
    // What sounds already, unheard, comes in by a glide.
    if (!this.heldBack) {
      this.gainLeft = this.wantedLeft * this.expression;
      this.gainRight = this.wantedRight * this.expression;
      this.sendNow = this.sendWanted;
    }
    this.quietFrames = 0;
    this.lastPeak = 0;
    this.idle = true;
    this.heldBack = false;
  }

  /** Brings controllers nearer to their targets; while nothing sounds, whatever begins takes them at once. */
  glideControllers(): void {
    if (this.sounding === 0) return;
    for (let i = 0; i < this.usedCount; i++) {
      const c = this.used[i];
      const gap = this.targets[c] - this.controllers[c];
      this.controllers[c] =
        Math.abs(gap) < 1e-3 ? this.targets[c] : this.controllers[c] + CONTROL_GLIDE * gap;
    }
  }

  private get expression(): number {
    const share = this.controllers[CONTROLLER.expression] / 127;
    return share * share;
  }

  /** A cleared block for what goes to the hall, and one to work in; 0 while that is the same as what is heard. */
  private beginApart(): number {
    let apart = false;
    for (let p = 0; p < this.buses.length; p++) if (this.buses[p].sendsApart) apart = true;
    // Filters that ring go on to: what they hold belongs to both.
    if (!apart && !this.sendsApart) return 0;
    if (!this.sendsApart && this.brightness !== 0) {
      // Until now both were one sound: the filter goes on with what it holds of it.
      this.kernel.copy(this.brightness + 8, this.brightness, 8);
      this.kernel.copy(this.brightness + 24, this.brightness + 16, 8);
    }
    this.sendsApart = true;
    if (this.apart === 0) this.apart = this.room(2 * BLOCK * FRAME_BYTES);
    this.kernel.clear(this.apart, BLOCK * FRAME_BYTES);
    return this.apart;
  }

  private get tailFrames(): number {
    let most = 0;
    for (let p = 0; p < this.buses.length; p++) most = Math.max(most, this.buses[p].tailFrames);
    return most + BLOCK;
  }

  /**
   * Sums the positions, applies tone, gain and expression.
   * @param sound, hall addresses of a block each, overwritten with what is heard and what goes to the hall
   * @returns false when the track is silent and nothing was written
   */
  render(sound: number, hall: number): boolean {
    if (this.fed) {
      // What was moved while it was silent is taken at once.
      if (this.idle) this.fallSilent();
      this.idle = false;
      this.quietFrames = 0;
    } else if (this.idle) {
      this.heldBack = this.sounding > 0;
      return false;
    } else {
      this.quietFrames += BLOCK;
      if (this.quietFrames > this.tailFrames && this.lastPeak < SILENT) {
        for (const bus of this.buses) bus.silence();
        this.fallSilent();
        return false;
      }
    }
    this.fed = false;
    const { kernel } = this;
    kernel.clear(sound, BLOCK * FRAME_BYTES);
    const apart = this.beginApart();
    for (let p = 0; p < this.buses.length; p++)
      this.buses[p].mixInto(sound, apart, apart + BLOCK * FRAME_BYTES);
    if (this.eq?.works) this.eq.process(sound, BLOCK, ENGINE_RATE, apart);
    this.darken(sound, apart);
    const left = glided(this.gainLeft, this.wantedLeft * this.expression);
    const right = glided(this.gainRight, this.wantedRight * this.expression);
    const send = glided(this.sendNow, this.sendWanted);
    this.lastPeak = kernel.finishTrack(
      sound,
      hall,
      BLOCK,
      this.gainLeft,
      this.gainRight,
      (left - this.gainLeft) / BLOCK,
      (right - this.gainRight) / BLOCK,
      this.sendNow,
      (send - this.sendNow) / BLOCK,
    );
    if (apart !== 0)
      kernel.finishTrack(
        apart,
        hall,
        BLOCK,
        this.gainLeft,
        this.gainRight,
        (left - this.gainLeft) / BLOCK,
        (right - this.gainRight) / BLOCK,
        this.sendNow,
        (send - this.sendNow) / BLOCK,
      );
    this.gainLeft = left;
    this.gainRight = right;
    this.sendNow = send;
    if (this.lastPeak > this.peak) this.peak = this.lastPeak;
    return true;
  }
}

/** Controllers that rest elsewhere for one of two instruments. */
const restsOf = (...instruments: (PreparedInstrument | null)[]): number[] =>
  instruments.flatMap((one) => Object.keys(one?.rests ?? {}).map(Number));

/** A block nearer to what is wanted. */
function glided(now: number, wanted: number): number {
  const next = now + GLIDE * (wanted - now);
  return Math.abs(next - wanted) < NEAR ? wanted : next;
}
