import { describe, expect, it } from 'vitest';
import { BLOCK, Click, type ClickAt } from './index.ts';

const RATE = 48_000;

/** What is heard of clicks over so many blocks. */
function heard(clicks: readonly ClickAt[], blocks: number, click = new Click()): Float32Array {
  const out = new Float32Array(blocks * BLOCK);
  const right = new Float32Array(BLOCK);
  click.add(clicks);
  for (let block = 0; block < blocks; block++) {
    right.fill(0);
    const left = out.subarray(block * BLOCK, (block + 1) * BLOCK);
    click.render(left, right, block * BLOCK);
    expect(right).toEqual(left);
  }
  return out;
}
const firstSound = (sound: Float32Array, from = 0) =>
  sound.findIndex((value, i) => i >= from && Math.abs(value) > 1e-6);
/** Strength of a pitch over a stretch, by its projection on sine and cosine. */
function strength(sound: Float32Array, hertz: number): number {
  let [re, im] = [0, 0];
  sound.forEach((value, i) => {
    re += value * Math.cos((2 * Math.PI * hertz * i) / RATE);
    im += value * Math.sin((2 * Math.PI * hertz * i) / RATE);
  });
  return Math.hypot(re, im);
}

describe('the click', () => {
  it('begins at its very frame, wherever that lies in a block', () => {
    // The first sample of a sine is zero: the second is heard.
    for (const frame of [0, 1, 127, 128, 5000])
      expect(firstSound(heard([{ frame, strong: false }], 60))).toBe(frame + 1);
  });
  it('is silent again before a tenth of a second, without a jump', () => {
    const sound = heard([{ frame: 100, strong: true }], 60);
    expect(sound.subarray(100 + 4800).every((value) => value === 0)).toBe(true);
    let jump = 0;
    for (let i = 1; i < sound.length; i++) jump = Math.max(jump, Math.abs(sound[i] - sound[i - 1]));
    // A sine of 2 kHz at a quarter of full scale moves by 0.065 at most from sample to sample.
    expect(jump).toBeLessThan(0.066);
    expect(Math.max(...sound)).toBeGreaterThan(0.2);
  });
  it('tells the first of a bar by its pitch', () => {
    const [strong, weak] = [true, false].map((is) => heard([{ frame: 0, strong: is }], 20));
    expect(strength(strong, 2000)).toBeGreaterThan(2 * strength(strong, 1500));
    expect(strength(weak, 1500)).toBeGreaterThan(2 * strength(weak, 2000));
  });
  it('sounds as loud as asked, over what is there', () => {
    const click = new Click();
    click.gain = 0.5;
    const loud = heard([{ frame: 0, strong: false }], 20, click);
    const usual = heard([{ frame: 0, strong: false }], 20);
    expect(Math.max(...loud) / Math.max(...usual)).toBeCloseTo(2, 3);
    const left = new Float32Array(BLOCK).fill(0.1);
    const over = new Click();
    over.add([{ frame: 0, strong: false }]);
    over.render(left, new Float32Array(BLOCK), 0);
    expect(left[0]).toBeCloseTo(0.1, 6);
    expect(left[20] - 0.1).toBeCloseTo(usual[20], 6);
  });
  it('goes on with what is added, and forgets what is dropped', () => {
    const click = new Click();
    click.add([{ frame: 10, strong: false }]);
    const first = heard([{ frame: 9600, strong: false }], 100, click);
    expect([firstSound(first), firstSound(first, 9000)]).toEqual([11, 9601]);
    const other = new Click();
    other.add([{ frame: 10, strong: false }]);
    other.clear();
    expect(firstSound(heard([], 10, other))).toBe(-1);
  });
});
