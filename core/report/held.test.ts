import { describe, expect, it } from 'vitest';
import type { Fade, Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { instrumentOf, plainZone } from '../testing/fixtures.ts';
import { midiToHertz } from '../units/index.ts';
import { measureArticulation, type HeardSample } from './index.ts';

/** What is measured of held notes, over tones whose vibrato, loops and partials are known. */

const RATE = 48_000;
const SECONDS = 3;
const KEYS = [60, 64, 67, 72];

interface Held {
  key: number;
  cents?: number;
  hertz?: number;
}

/** A tone of four partials that swings by so many cents so many times a second: its phase is the integral of that. */
function held({ key, cents = 0, hertz = 5 }: Held): HeardSample {
  const pitch = midiToHertz(key);
  const depth = (cents / 1200) * Math.LN2;
  const channel = Float32Array.from({ length: SECONDS * RATE }, (_, i) => {
    const t = i / RATE;
    const swing = depth === 0 ? 0 : (-depth * Math.cos(2 * Math.PI * hertz * t)) / (2 * Math.PI * hertz);
    const phase = 2 * Math.PI * pitch * (t + swing);
    let sum = 0;
    for (let h = 1; h <= 4; h++) sum += Math.sin(h * phase) / h;
    return 0.1 * Math.min(1, t / 0.02) * Math.min(1, (SECONDS - t) / 0.05) * sum;
  });
  return { channels: [channel, channel], rate: RATE };
}

const fade = (controller: number, inLow: number, inHigh: number, outLow: number, outHigh: number): Fade => ({
  controller,
  inLow,
  inHigh,
  outLow,
  outHigh,
});

/** Notes without vibrato, crossed by its controller to notes with it, as one articulation. */
function measured(id: string, { loopSeconds = 0, cents = 30, hertz = 5.5 } = {}) {
  const audio = new Map<string, HeardSample>();
  const zones = KEYS.flatMap((key): Zone[] =>
    [false, true].map((ridden) => {
      const sample = `${key} ${ridden}`;
      audio.set(sample, held(ridden ? { key, cents, hertz } : { key }));
      return plainZone({
        rootKey: key,
        keyLow: key - 1,
        keyHigh: key + 1,
        samples: { close: { sample } },
        fades: [ridden ? fade(CONTROLLER.vibrato, 0, 127, 127, 127) : fade(CONTROLLER.vibrato, 0, 0, 0, 127)],
        ...(loopSeconds > 0
          ? { loop: { start: RATE, end: RATE + loopSeconds * RATE, untilRelease: false } }
          : {}),
      });
    }),
  );
  const articulation = { id, name: id, zones };
  const instrument = {
    ...instrumentOf([articulation], new Map(), ['close']),
    samples: Object.fromEntries(
      [...audio].map(([name, { channels }]) => [
        name,
        {
          id: name,
          rate: RATE,
          channels: 2 as const,
          format: 'i16' as const,
          frames: channels[0].length,
          pack: 'pack',
          headOffset: 0,
          headFrames: 0,
          tailOffset: 0,
        },
      ]),
    ),
  };
  return measureArticulation(
    instrument,
    articulation,
    (name) => audio.get(name),
    () => undefined,
  );
}

describe('vibrato', () => {
  it('is told of the notes that have it, as fast and as wide as it is', () => {
    const { vibrato } = measured('long');
    const ridden = vibrato.filter((one) => one.ridden);
    expect(ridden.length).toBeGreaterThan(0);
    for (const { hertz, cents } of ridden) {
      expect(Math.abs(hertz - 5.5)).toBeLessThan(0.3);
      expect(Math.abs(cents - 30)).toBeLessThan(4);
    }
    for (const { cents } of vibrato.filter((one) => !one.ridden)) expect(cents).toBeLessThan(2);
  });
  it('slow and narrow is told as well', () => {
    const ridden = measured('long', { cents: 12, hertz: 4 }).vibrato.filter((one) => one.ridden);
    for (const { hertz, cents } of ridden) {
      expect(Math.abs(hertz - 4)).toBeLessThan(0.3);
      expect(Math.abs(cents - 12)).toBeLessThan(3);
    }
  });
});

describe('held notes', () => {
  it.each(['long', 'connected'])('of %s are looked at for what they hold and how they repeat', (id) => {
    const { sustains, vibrato, partials } = measured(id, { loopSeconds: 1.5 });
    expect(sustains.map(({ key, layer }) => `${key} ${layer}`)).toEqual(KEYS.map((key) => `${key} 0`));
    for (const one of sustains) expect(one.repeatsAfterSeconds).toBeCloseTo(1.5, 2);
    expect(vibrato.length).toBeGreaterThan(0);
    // With and without vibrato.
    expect(partials).toHaveLength(2);
    expect(partials[0]).toHaveLength(KEYS.length);
  });
  it('without a loop do not repeat', () => {
    for (const one of measured('long').sustains) expect(one.repeatsAfterSeconds).toBe(0);
  });
  it('are no short ones: those have neither vibrato nor a hold, nor partials', () => {
    const { sustains, vibrato, partials } = measured('staccato');
    expect([sustains, vibrato, partials]).toEqual([[], [], []]);
  });
  it('that move of themselves, as rolls do, are not looked at for vibrato or a hold', () => {
    const { sustains, vibrato } = measured('roll');
    expect([sustains, vibrato]).toEqual([[], []]);
  });
});
