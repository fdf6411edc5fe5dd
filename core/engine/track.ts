import { SOURCES } from '../catalogue/index.ts';
import { balanceGains, levelGain, type TrackMix } from '../mixing/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { PITCH_BEND } from './events.ts';
import { PositionBus } from './position-bus.ts';
import type { PreparedInstrument } from './prepared.ts';
import { TrackEq } from './track-eq.ts';
import { BLOCK, MAX_POSITIONS } from './voice.ts';

/** Share of the way to a controller's target covered per block: a time constant of about 8 ms. */
const CONTROL_GLIDE = 0.28;
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
    for (const c of [CONTROLLER.expression, PITCH_BEND, ...(instrument?.controllers ?? [])]) this.follow(c);
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

  reset(): void {
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
