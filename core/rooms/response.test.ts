import { describe, expect, it } from 'vitest';
import { ENGINE_RATE } from '../units/index.ts';
import { FOUNDRY_STAGE, HARBOUR_HALL, hallResponse, SHARED_HALLS } from './index.ts';

/** Decay by its definition: the energy that is still to come, from −5 to −25 dB, carried on to −60. */
function decaySeconds(wave: Float32Array, from: number): number {
  const left = new Float64Array(wave.length + 1);
  for (let i = wave.length - 1; i >= 0; i--) left[i] = left[i + 1] + wave[i] ** 2;
  const reach = (db: number) => {
    let i = from;
    while (10 * Math.log10(left[i] / left[from]) > -db) i++;
    return i;
  };
  return (3 * (reach(25) - reach(5))) / ENGINE_RATE;
}
/** Level of a band in dB by sums with sines in it, over a stretch. */
function bandDb(wave: Float32Array, hz: number, from = 0, to = wave.length): number {
  let power = 0;
  for (let k = -8; k <= 8; k++) {
    let [re, im] = [0, 0];
    for (let i = from; i < to; i++) {
      const angle = (2 * Math.PI * (hz * 2 ** (k / 48)) * i) / ENGINE_RATE;
      re += wave[i] * Math.cos(angle);
      im += wave[i] * Math.sin(angle);
    }
    power += re * re + im * im;
  }
  return 10 * Math.log10(power);
}
const energy = (wave: Float32Array) => wave.reduce((sum, v) => sum + v * v, 0);
const firstSound = (wave: Float32Array) => wave.findIndex((v) => Math.abs(v) > 1e-4);

describe('what a hall answers', () => {
  it.each([0.6, 1.7, 3.5])('decays in %s s', (seconds) => {
    const { left, earlyFrames } = hallResponse(HARBOUR_HALL, { decaySeconds: seconds, damping: 0 });
    expect(decaySeconds(left, earlyFrames) / seconds).toBeGreaterThan(0.88);
    expect(decaySeconds(left, earlyFrames) / seconds).toBeLessThan(1.12);
  });
  it('comes later by its pre-delay, early part and tail alike, and is otherwise the same', () => {
    const plain = hallResponse(HARBOUR_HALL);
    const late = hallResponse(HARBOUR_HALL, { preDelayMs: 50 });
    expect(late.earlyFrames - plain.earlyFrames).toBe(2400);
    expect(Math.max(...late.left.subarray(0, 2400).map(Math.abs))).toBe(0);
    expect(late.left.slice(2400, 40_000)).toEqual(plain.left.slice(0, 37_600));
  });
  it('loses treble sooner when it is damped', () => {
    // What changes from frame to frame, against all of it: grows with treble.
    const treble = (damping: number) => {
      const late = hallResponse(HARBOUR_HALL, { damping }).left.subarray(24_000, 40_000);
      const steps = late.map((v, i) => (i === 0 ? 0 : v - late[i - 1]));
      return 10 * Math.log10(energy(steps) / energy(late));
    };
    expect(treble(0.5)).toBeLessThan(treble(0.1) - 1);
    expect(treble(0.9)).toBeLessThan(treble(0.5) - 3);
  });
  it('has its lows and highs cut by 3 dB at the corner and about 12 dB an octave beyond', () => {
    const plain = hallResponse(HARBOUR_HALL).left.subarray(0, 30_000);
    const cut = hallResponse(HARBOUR_HALL, { lowCutHz: 400, highCutHz: 4000 }).left.subarray(0, 30_000);
    const lost = (hz: number) => bandDb(cut, hz) - bandDb(plain, hz);
    expect(lost(1265)).toBeCloseTo(0, 0);
    expect(lost(400)).toBeCloseTo(-3, 0);
    expect(lost(4000)).toBeCloseTo(-3, 0);
    expect(Math.abs(lost(100) + 24)).toBeLessThan(1.5);
  });
  it('is heard at the other side too, later and unlike, as loud as in a room', () => {
    const { left, right, cross } = hallResponse(HARBOUR_HALL);
    if (!cross) throw new Error('sides do not meet');
    const sides = [left, right, cross.leftToRight, cross.rightToLeft];
    for (const side of sides) expect(10 * Math.log10(energy(side) / energy(left))).toBeCloseTo(0, 0);
    for (const [a, b] of [
      [0, 2],
      [1, 3],
      [0, 1],
    ]) {
      const shared = sides[a].reduce((sum, v, i) => sum + v * sides[b][i], 0);
      expect(Math.abs(shared) / Math.sqrt(energy(sides[a]) * energy(sides[b]))).toBeLessThan(0.2);
    }
  });
  it('begins later in a larger hall', () => {
    const first = (size: number) => firstSound(hallResponse(FOUNDRY_STAGE, { size }).left);
    expect(first(2)).toBeGreaterThan(first(1));
    expect(first(1)).toBeGreaterThan(first(0.5));
  });
  it('is the same for the same settings, and another in every hall', () => {
    expect(hallResponse(HARBOUR_HALL, { size: 1.3 }).left).toEqual(
      hallResponse(HARBOUR_HALL, { size: 1.3 }).left,
    );
    const lengths = Object.values(SHARED_HALLS).map((hall) => hallResponse(hall).left.length);
    expect(new Set(lengths).size).toBe(lengths.length);
  });
  it('holds settings that are out of range', () => {
    const wild = hallResponse(HARBOUR_HALL, { decaySeconds: 1e9, preDelayMs: -5, size: NaN });
    expect(wild.left.length).toBe(Math.ceil(8 * 1.15 * ENGINE_RATE));
    expect(wild.left.every(Number.isFinite)).toBe(true);
  });
});
