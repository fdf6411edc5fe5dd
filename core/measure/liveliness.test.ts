import { describe, expect, it } from 'vitest';
import { livelinessOf } from './index.ts';

const rate = 48_000;
const tone = (hz: number, seconds: number, level = 0.5) =>
  Float32Array.from(
    { length: Math.round(seconds * rate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / rate),
  );

describe('liveliness', () => {
  const span = { from: 0.3 * rate, to: 1.8 * rate };
  it('measures how much a held tone moves', () => {
    const swelling = tone(440, 2).map((v, i) => v * (1 + 0.25 * Math.sin((2 * Math.PI * 2 * i) / rate)));
    const still = livelinessOf([tone(440, 2)], rate, span);
    const moving = livelinessOf([swelling], rate, span);
    expect(still.movementDb).toBeLessThan(0.05);
    expect(moving.movementDb).toBeGreaterThan(1);
    expect(still.repeatsAfterSeconds).toBe(0);
  });
  it('tells a loop’s length, and a seam that joins from one that bumps', () => {
    const period = rate / 440;
    const start = Math.round(40 * period);
    const good = { start, end: start + Math.round(200 * period) };
    const bad = { start, end: Math.round(start + 200.5 * period) };
    const joined = livelinessOf([tone(440, 2)], rate, span, good);
    expect(joined.repeatsAfterSeconds).toBeCloseTo((good.end - good.start) / rate, 3);
    expect(joined.seam).toBeGreaterThan(0.98);
    expect(livelinessOf([tone(440, 2)], rate, span, bad).seam).toBeLessThan(0.5);
  });
  it('holds a steady fall out of the movement, and tells it in decibels', () => {
    const faded = tone(440, 2).map((v, i) => v * 10 ** (-i / rate / 2));
    expect(livelinessOf([faded], rate, span).movementDb).toBeLessThan(0.05);
    // Loud and soft by turns of 0.25 s, 6 dB apart: 3 dB to either side, a little less for what is averaged.
    const turns = tone(440, 2).map((v, i) => v * (Math.floor((4 * i) / rate) % 2 ? 1 : 0.5012));
    const moved = livelinessOf([turns], rate, { from: 0, to: 2 * rate }).movementDb;
    expect(moved).toBeGreaterThan(2.6);
    expect(moved).toBeLessThan(3.05);
  });
  it('looks at the loop where there is one, else at the held part, and needs three looks', () => {
    const signal = tone(440, 2).map((v, i) => (i < rate ? v : v * (1 + 0.3 * Math.sin(i / 4000))));
    expect(livelinessOf([signal], rate, { from: rate, to: 2 * rate }).movementDb).toBeGreaterThan(1);
    expect(
      livelinessOf([signal], rate, { from: rate, to: 2 * rate }, { start: 4800, end: 43_200 }).movementDb,
    ).toBeLessThan(0.1);
    // Looks of 40 ms, 20 ms apart: three of them in 80 ms.
    const loud = tone(440, 2).map((v, i) => v * (Math.floor(i / 2400) % 2 ? 1 : 0.1));
    expect(livelinessOf([loud], rate, { from: 0, to: 0.08 * rate }).movementDb).toBeGreaterThan(0.3);
    expect(livelinessOf([loud], rate, { from: 0, to: 0.0799 * rate }).movementDb).toBe(0);
    expect(livelinessOf([loud], rate, { from: rate, to: rate }).movementDb).toBe(0);
  });
  it('tells a seam by the 10 ms before both ends of the loop, over all channels', () => {
    const [a, b] = [tone(440, 1), tone(440, 1)];
    const loop = { start: 12_000, end: 36_000 };
    expect(livelinessOf([a], rate, span, loop).seam).toBeCloseTo(1, 6);
    // 24,000 frames are 220 periods. What lies behind either end, or more than 10 ms before it, does not matter.
    a.fill(0.3, 36_000, 37_000).fill(-0.2, 12_000, 12_400).fill(0.4, 35_000, 35_500);
    expect(livelinessOf([a], rate, span, loop).seam).toBeCloseTo(1, 6);
    // One of two channels turned round: what both add up to is 0.
    b.subarray(35_520, 36_000).forEach((v, i) => (b[35_520 + i] = -v));
    expect(livelinessOf([a, b], rate, span, loop).seam).toBeCloseTo(0, 6);
    expect(livelinessOf([b], rate, span, loop).seam).toBe(0);
    expect(livelinessOf([new Float32Array(rate)], rate, span, loop).seam).toBe(1);
  });
});
