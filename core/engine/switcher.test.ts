import { describe, expect, it } from 'vitest';
import { Switcher } from './index.ts';

const FRAMES = 4000;
const rendering = (value: number, gain = 1) => ({
  left: new Float32Array(FRAMES).fill(value),
  right: new Float32Array(FRAMES).fill(-value),
  gain,
});

/** The next frames of what a switcher adds. */
function hear(switcher: Switcher, frames: number): Float32Array {
  const left = new Float32Array(frames);
  const right = new Float32Array(frames);
  for (let at = 0; at < frames; at += 100) switcher.process(left, right, at, Math.min(frames, at + 100));
  for (let i = 0; i < frames; i++) expect(right[i]).toBeCloseTo(-left[i], 6);
  return left;
}

describe('going from one rendering to another', () => {
  it('fades in, goes over at the same place within a block in equal power, and fades out', () => {
    const switcher = new Switcher();
    expect(switcher.sounds).toBe(false);
    switcher.start(rendering(0.5), 0);
    const first = hear(switcher, 1000);
    expect(first[0]).toBeLessThan(0.01);
    expect(first[600]).toBeCloseTo(0.5, 6);
    switcher.change(rendering(0.25, 2));
    const over = hear(switcher, 200);
    expect(over[63]).toBeCloseTo(0.5 * Math.SQRT2, 1);
    expect(over[140]).toBeCloseTo(0.5, 6);
    expect([switcher.isPlaying, switcher.place]).toEqual([true, 1200]);
    switcher.stop();
    expect([switcher.isPlaying, switcher.sounds]).toEqual([false, true]);
    const end = hear(switcher, 600);
    expect(end[479]).toBeLessThan(0.01);
    expect([end[520], switcher.sounds]).toEqual([0, false]);
  });
  it('takes nothing up anew that it plays already', () => {
    const switcher = new Switcher();
    const one = rendering(0.5);
    switcher.start(one, 0);
    hear(switcher, 1000);
    switcher.change(one);
    expect([...hear(switcher, 300)].every((value) => Math.abs(value - 0.5) < 1e-6)).toBe(true);
  });
  it('ends at the end, or begins again', () => {
    const switcher = new Switcher();
    switcher.start(rendering(0.5), FRAMES - 1000);
    expect(hear(switcher, 1200)[1100]).toBe(0);
    expect(switcher.isPlaying).toBe(false);
    switcher.repeat = true;
    switcher.start(rendering(0.5), FRAMES - 1000);
    expect(hear(switcher, 1200)[1100]).toBeCloseTo(0.5, 6);
    expect(switcher.place).toBe(200);
  });
  it('begins no earlier than the beginning and no later than the end', () => {
    const switcher = new Switcher();
    switcher.start(rendering(0.5), -50);
    hear(switcher, 100);
    expect(switcher.place).toBe(100);
    switcher.start(rendering(0.5), FRAMES + 50);
    hear(switcher, 100);
    expect(switcher.isPlaying).toBe(false);
  });
  it('begins anew while it sounds by going over from where it was, without a fade from silence', () => {
    const switcher = new Switcher();
    switcher.start(rendering(0.5), 0);
    hear(switcher, 1000);
    switcher.start(rendering(0.5), 2000);
    const over = hear(switcher, 200);
    // Equal material in equal power: never quieter than it was, and at most 3 dB louder.
    for (const value of over) {
      expect(value).toBeGreaterThan(0.499);
      expect(value).toBeLessThan(0.5 * Math.SQRT2 + 0.001);
    }
    expect(switcher.place).toBe(2200);
  });
  it('fades in from silence after it has stopped, in 10 ms', () => {
    const switcher = new Switcher();
    switcher.start(rendering(0.5), 0);
    hear(switcher, 1000);
    switcher.stop();
    hear(switcher, 600);
    switcher.start(rendering(0.5), 0);
    const again = hear(switcher, 1000);
    expect(Math.max(...again.subarray(0, 10))).toBeLessThan(0.02);
    // Straight from 0 to 1 over 480 frames.
    expect(again[239]).toBeCloseTo(0.25, 2);
    expect(again[479]).toBeCloseTo(0.5, 5);
  });
});
