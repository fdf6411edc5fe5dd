import { distanceToSeconds, ENGINE_RATE, secondsToFrames } from '../units/index.ts';
import {
  airLossPole,
  diffuseGain,
  DiffuseField,
  directArrival,
  reflections,
  type Arrival,
  type HallModel,
  type MicPair,
  type Point,
} from '../rooms/index.ts';
import type { Player } from './players.ts';

/** Stereo sound of one position. */
export interface StereoTake {
  left: Float32Array;
  right: Float32Array;
}

const DESKS = 2;
/** Silence in front of every source, so that no arrival reaches before its start: 55 m of travel. */
const PAD = 8192;

/** A source as heard at a microphone; sounds carry `PAD` frames of silence in front. */
interface Tap extends Arrival {
  sound: Float32Array;
}

/** Everything that depends only on who sits where: worked out once for a section in a hall. */
export class Session {
  private readonly diffuse: number;
  private readonly fieldEnergy: number;

  constructor(
    readonly hall: HallModel,
    readonly players: readonly Player[],
  ) {
    this.diffuse = diffuseGain(hall);
    this.fieldEnergy = fieldEnergy(hall);
  }

  /**
   * Records what the players play with every microphone pair at once.
   * @param played one mono buffer per player, all from the same moment; missing players are silent
   * @param frames length wanted
   */
  record(played: readonly Float32Array[], frames: number): Map<string, StereoTake> {
    const sources = played.map((sound) => padded(sound, frames));
    const sum = new Float32Array(frames);
    for (const sound of sources) for (let i = 0; i < frames; i++) sum[i] += sound[i + PAD];
    const field = Array.from({ length: 8 }, () => new Float32Array(PAD + frames));
    new DiffuseField(this.hall).process(
      sum,
      field.map((line) => line.subarray(PAD)),
    );
    const desks = this.desks(sources, frames);
    const takes = new Map<string, StereoTake>();
    for (const placed of this.hall.mics) {
      const mic = placed.follows ? this.follow(placed) : placed;
      const gain = 10 ** (mic.gainDb / 20);
      const tail = (this.diffuse / Math.sqrt(this.fieldEnergy)) * gain;
      takes.set(mic.id, {
        left: this.channel(mic.left, sources, desks, field, frames, gain, tail, 0),
        right: this.channel(mic.right, sources, desks, field, frames, gain, tail, 1),
      });
    }
    return takes;
  }

  /** A pair placed against the middle of the players. */
  private follow(mic: MicPair): MicPair {
    const mean = (axis: keyof Point) =>
      this.players.reduce((sum, player) => sum + player.seat[axis], 0) / this.players.length;
    const at = { x: mean('x'), y: mean('y'), z: mean('z') };
    const move = (point: Point) => ({ x: at.x + point.x, y: at.y + point.y, z: at.z + point.z });
    return { ...mic, left: move(mic.left), right: move(mic.right) };
  }

  /** Sums of neighbouring players with their middle: enough detail for reflections. */
  private desks(sources: readonly Float32Array[], frames: number): { at: Point; sound: Float32Array }[] {
    const size = Math.ceil(sources.length / DESKS);
    return Array.from({ length: Math.ceil(sources.length / size) }, (_, g) => {
      const seats = this.players.slice(g * size, (g + 1) * size).map((player) => player.seat);
      const mean = (axis: keyof Point) => seats.reduce((sum, seat) => sum + seat[axis], 0) / seats.length;
      const sound = new Float32Array(PAD + frames);
      const taps = sources
        .slice(g * size, (g + 1) * size)
        .map((source) => ({ sound: source, delayFrames: 0, gain: 1 }));
      addTaps(sound.subarray(PAD), taps);
      return { at: { x: mean('x'), y: mean('y'), z: mean('z') }, sound };
    });
  }

  private channel(
    mic: Point,
    sources: readonly Float32Array[],
    desks: readonly { at: Point; sound: Float32Array }[],
    field: readonly Float32Array[],
    frames: number,
    gain: number,
    tailGain: number,
    side: number,
  ): Float32Array {
    const out = new Float32Array(frames);
    const heard = (sound: Float32Array, arrival: Arrival): Tap => ({
      sound,
      delayFrames: arrival.delayFrames,
      gain: arrival.gain * gain,
    });
    const direct = sources.map((sound, i) => heard(sound, directArrival(this.players[i].seat, mic)));
    const early = desks.flatMap(({ at, sound }) =>
      reflections(this.hall, at, mic).map((arrival) => heard(sound, arrival)),
    );
    addTaps(out, [...direct, ...early]);
    const metres = direct.reduce((sum, tap) => sum + gain / tap.gain, 0) / direct.length;
    const pole = airLossPole(metres);
    let state = 0;
    for (let i = 0; i < frames; i++) {
      state = out[i] + pole * (state - out[i]);
      out[i] = state;
    }
    const wait = secondsToFrames(distanceToSeconds(metres * 0.6));
    const diffuse = field.map((sound, k) => {
      const sign = ((k >> (side + 1)) & 1) === 0 ? tailGain : -tailGain;
      return { sound, delayFrames: wait, gain: sign * (k % 2 === side ? 1 : 0.35) };
    });
    addTaps(out, diffuse);
    return out;
  }
}

function padded(sound: Float32Array, frames: number): Float32Array {
  const out = new Float32Array(PAD + frames);
  out.set(sound.subarray(0, frames), PAD);
  return out;
}

/** Adds delayed and scaled sources, four in one pass: memory is touched a quarter as often. */
function addTaps(out: Float32Array, taps: readonly Tap[]): void {
  const silent: Tap = { sound: taps[0].sound, delayFrames: 0, gain: 0 };
  const from = ({ sound, delayFrames }: Tap) => sound.subarray(PAD - delayFrames);
  for (let t = 0; t < taps.length; t += 4) {
    const [a, b, c, d] = [taps[t], taps[t + 1] ?? silent, taps[t + 2] ?? silent, taps[t + 3] ?? silent];
    addFour(out, from(a), from(b), from(c), from(d), a.gain, b.gain, c.gain, d.gain);
  }
}

/** Four frames at a time: their sums do not wait for each other, which took twice as long (measured). */
function addFour(
  out: Float32Array,
  a: Float32Array,
  b: Float32Array,
  c: Float32Array,
  d: Float32Array,
  gainA: number,
  gainB: number,
  gainC: number,
  gainD: number,
): void {
  let i = 0;
  for (; i + 3 < out.length; i += 4) {
    const first = gainA * a[i] + gainB * b[i] + gainC * c[i] + gainD * d[i];
    const second = gainA * a[i + 1] + gainB * b[i + 1] + gainC * c[i + 1] + gainD * d[i + 1];
    const third = gainA * a[i + 2] + gainB * b[i + 2] + gainC * c[i + 2] + gainD * d[i + 2];
    const fourth = gainA * a[i + 3] + gainB * b[i + 3] + gainC * c[i + 3] + gainD * d[i + 3];
    out[i] += first;
    out[i + 1] += second;
    out[i + 2] += third;
    out[i + 3] += fourth;
  }
  for (; i < out.length; i++) out[i] += gainA * a[i] + gainB * b[i] + gainC * c[i] + gainD * d[i];
}

/** Energy of the diffuse network's answer to one unit pulse, per output channel. */
function fieldEnergy(hall: HallModel): number {
  const pulse = new Float32Array(Math.ceil(hall.decaySeconds * ENGINE_RATE));
  pulse[0] = 1;
  const taps = Array.from({ length: 8 }, () => new Float32Array(pulse.length));
  new DiffuseField(hall).process(pulse, taps);
  let energy = 0;
  for (const tap of taps) for (let i = 0; i < tap.length; i++) energy += tap[i] * tap[i];
  return (energy / 8) * (4 + 4 * 0.35 ** 2);
}
