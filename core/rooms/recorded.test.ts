import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { HARBOUR_HALL, hallResponse, plainHall, recordedResponse, type HallSettings } from './index.ts';

const RATE = 48_000;
const DECAY = 1;
function ringing(seed: string): Float32Array {
  const random = new Random(seed);
  return Float32Array.from(
    { length: 1.4 * RATE },
    (_, i) => 10 ** ((-3 * i) / RATE / DECAY) * (random.next() * 2 - 1),
  );
}
const channels = ['a', 'b', 'c', 'd'].map(ringing);
const plain: HallSettings = { ...plainHall(HARBOUR_HALL), decaySeconds: DECAY };
const made = (count: number, change: Partial<HallSettings> = {}) =>
  recordedResponse({ channels: channels.slice(0, count), decaySeconds: DECAY }, { ...plain, ...change });
const power = (side: Float32Array | undefined, from = 0, to = Infinity) =>
  side?.slice(from, Math.min(to, side.length)).reduce((sum, value) => sum + value * value, 0) ?? 0;
/** The factor between two sounds, when they are the same but for one. */
function factorOf(a: Float32Array, b: Float32Array): number {
  const factor = a[100] / b[100];
  for (const i of [0, 7, 5000, 40_000]) expect(a[i]).toBeCloseTo(factor * b[i], 6);
  return factor;
}
/** dB that power falls by in a second. */
const fall = (side: Float32Array) =>
  (10 * Math.log10(power(side, 4800, 9600) / power(side, 28_800, 33_600))) / 0.5;
/** Power above about 6 kHz against all, between two frames: by the difference of neighbours. */
const treble = (side: Float32Array, from: number, to: number) => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += (side[i] - side[i - 1]) ** 2;
  return sum / power(side, from, to);
};

describe('a recorded hall', () => {
  it('of four channels lets every side be heard at both, as it was laid', () => {
    const { left, right, cross } = made(4);
    const gain = factorOf(left, channels[0]);
    expect(factorOf(cross?.leftToRight ?? left, channels[1])).toBeCloseTo(gain, 5);
    expect(factorOf(cross?.rightToLeft ?? left, channels[2])).toBeCloseTo(gain, 5);
    expect(factorOf(right, channels[3])).toBeCloseTo(gain, 5);
  });

  it('of two answers both sides as a source in the middle, of one each side by itself', () => {
    const two = made(2);
    expect(two.cross?.rightToLeft).toEqual(two.left);
    expect(two.cross?.leftToRight).toEqual(two.right);
    const one = made(1);
    expect(one.cross).toBeUndefined();
    expect(one.right).toEqual(one.left);
  });

  it('is as strong as the halls that ship with Farlo', () => {
    const shipped = hallResponse(HARBOUR_HALL);
    const wanted = power(shipped.left) + power(shipped.cross?.leftToRight);
    for (const count of [1, 2, 4]) {
      const { left, right, cross } = made(count);
      const own = (power(left) + power(cross?.leftToRight) + power(right) + power(cross?.rightToLeft)) / 2;
      expect(Math.abs(10 * Math.log10(own / wanted))).toBeLessThan(0.2);
    }
  });

  it('falls as fast as its decay says', () => {
    expect(fall(made(1).left)).toBeCloseTo(60, -0.5);
    expect(Math.abs(fall(made(1, { decaySeconds: 0.5 }).left) - 120)).toBeLessThan(4);
    expect(Math.abs(fall(made(1, { decaySeconds: 1.5 }).left) - 40)).toBeLessThan(4);
    // What is faint is lifted by no more than 30 dB.
    const { left } = made(1, { decaySeconds: 8 });
    expect(power(left, 62_000, 67_000) / power(left, 0, 5000)).toBeLessThan(1);
  });

  it('waits, and is larger, as its settings say', () => {
    const late = made(1, { preDelayMs: 50 });
    expect(late.left.slice(0, 2400).every((value) => value === 0)).toBe(true);
    expect(late.left.length).toBe(made(1).left.length + 2400);
    expect(late.earlyFrames).toBe(made(1).earlyFrames + 2400);
    const large = made(1, { size: 2, decaySeconds: 2 });
    const gain = large.left[2000] / made(1).left[1000];
    expect(large.left[40_000]).toBeCloseTo(gain * made(1).left[20_000], 5);
    expect(large.left.length).toBe(2 * made(1).left.length);
  });

  it('loses treble in time with damping above a half, and below what is cut', () => {
    const as = treble(made(1).left, 20_000, 30_000);
    expect(made(1, { damping: 0.2 }).left).toEqual(made(1).left);
    const dull = made(1, { damping: 0.9 }).left;
    expect(treble(dull, 20_000, 30_000)).toBeLessThan(as / 5);
    expect(treble(dull, 10, 500)).toBeGreaterThan(as / 3);
    expect(treble(made(1, { highCutHz: 2000 }).left, 20_000, 30_000)).toBeLessThan(as / 10);
  });
});
