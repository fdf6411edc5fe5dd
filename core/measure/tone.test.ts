import { describe, expect, it } from 'vitest';
import {
  bandLevelDb,
  centroidOfSpectrum,
  decayOf,
  endingOf,
  heardOf,
  powerEvery5ms,
  likeness,
  livelinessOf,
  loudnessOfSpectrum,
  noiseFloorDb,
  pitchTrackCents,
  resonancesOf,
  spectrumOf,
  tailSeconds,
  thirdOctavesOf,
  THIRD_OCTAVES,
  troubleOf,
  vibratoOf,
  widthOf,
} from './index.ts';
import { LoudnessMeter } from '../dsp/index.ts';
import { whiteNoise } from '../testing/fixtures.ts';

const rate = 48_000;

const noise = (frames: number, seed: number) => whiteNoise(frames, seed).map((value) => value / 2);
const tone = (hz: number, seconds: number, level = 0.5, atRate = rate) =>
  Float32Array.from(
    { length: Math.round(seconds * atRate) },
    (_, i) => level * Math.sin((2 * Math.PI * hz * i) / atRate),
  );
/** Noise that falls by 60 dB in `t60` seconds from frame 0. */
const falling = (t60: number, seconds: number, seed: number) =>
  noise(seconds * rate, seed).map((value, i) => value * 10 ** ((-3 * i) / rate / t60));

describe('spectrum', () => {
  it('tells the loudness of a tone as the meter does', () => {
    const left = tone(440, 2, 0.25);
    const meter = new LoudnessMeter(rate, true);
    meter.process(left, left, 0, left.length);
    const heard = loudnessOfSpectrum(spectrumOf([left, left], rate, 0, left.length));
    expect(Math.abs(heard - meter.integrated)).toBeLessThan(0.15);
  });
  it('hears nothing of what nobody hears: above 24 kHz, and what stands still', () => {
    const high = tone(30_000, 1, 0.5, 96_000);
    expect(loudnessOfSpectrum(spectrumOf([high], 96_000, 0, high.length))).toBeLessThan(-60);
    // The standard’s filter lifts 12 kHz by 4 dB.
    const bright = tone(12_000, 1, 0.5, 96_000);
    const heard = loudnessOfSpectrum(spectrumOf([bright], 96_000, 0, bright.length));
    expect(Math.abs(heard - (10 * Math.log10(0.125) + 4 - 0.691))).toBeLessThan(0.5);
    const still = new Float32Array(rate).fill(0.5);
    expect(loudnessOfSpectrum(spectrumOf([still], rate, 0, rate))).toBeLessThan(-25);
  });
  it('finds the centroid of one tone at the tone, of two equal ones half way', () => {
    const one = spectrumOf([tone(1000, 1)], rate, 0, rate);
    expect(Math.abs(centroidOfSpectrum(one) - 1000)).toBeLessThan(15);
    const two = tone(1000, 1).map((value, i) => value + 0.5 * Math.sin((2 * Math.PI * 3000 * i) / rate));
    expect(Math.abs(centroidOfSpectrum(spectrumOf([two], rate, 0, rate)) - 2000)).toBeLessThan(40);
  });
  it('puts a tone into its third octave and pink noise evenly over all', () => {
    const thirds = thirdOctavesOf(spectrumOf([tone(1000, 1)], rate, 0, rate));
    expect(THIRD_OCTAVES[thirds.indexOf(Math.max(...thirds))]).toBeCloseTo(1000, 3);
    const white = spectrumOf([noise(4 * rate, 3)], rate, 0, 4 * rate);
    // White noise holds as much per hertz: an octave higher is 3 dB more.
    const octave = bandLevelDb(white, 2000, 4000) - bandLevelDb(white, 1000, 2000);
    expect(Math.abs(octave - 3)).toBeLessThan(0.3);
  });
});

describe('decay', () => {
  it.each([0.4, 1.1, 2.6])('finds T30 of noise that falls in %s s within a tenth', (t60) => {
    const decay = decayOf([falling(t60, 2 * t60 + 0.5, 7)], rate, 0, (2 * t60 + 0.5) * rate);
    expect(decay?.rangeDb).toBe(30);
    expect(Math.abs((decay?.seconds ?? 0) / t60 - 1)).toBeLessThan(0.1);
  });
  it('holds the noise under a decay out', () => {
    const signal = falling(1, 2.5, 7).map((value, i) => value + 0.0008 * noise(1, i + 1)[0]);
    expect(Math.abs((decayOf([signal], rate, 0, signal.length)?.seconds ?? 0) - 1)).toBeLessThan(0.1);
  });
  it('says nothing of steady sound or silence', () => {
    expect(decayOf([tone(440, 1)], rate, 0, rate)).toBeUndefined();
    expect(decayOf([new Float32Array(rate)], rate, 0, rate)).toBeUndefined();
  });
  it.each([-3, 0, 6, 12])('finds direct sound %s dB over its room within 1 dB', (planted) => {
    // Noise for a second, its own room convolved: a decay that starts with the sound and outlasts it.
    const t60 = 1.2;
    const source = noise(rate, 11);
    const out = new Float32Array(3 * rate);
    out.set(source);
    // The room of steady noise is noise of constant power that has filled up, then falls.
    const room = noise(3 * rate, 23);
    const part = 10 ** (-planted / 20);
    for (let i = 0; i < out.length; i++) {
      const filled = 1 - 10 ** ((-6 * Math.min(i, rate)) / rate / t60);
      const fall = i < rate ? 1 : 10 ** ((-6 * (i - rate)) / rate / t60);
      out[i] += part * Math.sqrt(filled * fall) * room[i];
    }
    const power = powerEvery5ms([out], rate, 0, out.length);
    const ending = endingOf([power], 200);
    const [{ direct, room: full }] = heardOf([power], 200, ending ?? { ended: 0, until: 0, keeps: 1 }, false);
    const heard = 10 * Math.log10(direct / full);
    expect(Math.abs(heard - planted)).toBeLessThan(1);
  });
  it('finds where a tail has gone', () => {
    const signal = new Float32Array(2 * rate);
    signal.set(falling(0.5, 1.5, 5), 0.25 * rate);
    expect(Math.abs(tailSeconds([signal], rate, 0.25 * rate) - 0.5)).toBeLessThan(0.03);
  });
});

describe('width', () => {
  it('is 1 for a point, near 0 for two strangers, −1 out of phase', () => {
    const [a, b] = [noise(rate, 1), noise(rate, 2)];
    expect(widthOf([a, a], 0, rate)?.correlation).toBeCloseTo(1, 5);
    expect(widthOf([a], 0, rate)?.correlation).toBeCloseTo(1, 5);
    expect(Math.abs(widthOf([a, b], 0, rate)?.correlation ?? 9)).toBeLessThan(0.02);
    expect(widthOf([a, a.map((v) => -v)], 0, rate)?.correlation).toBeCloseTo(-1, 5);
    expect(widthOf([new Float32Array(9), new Float32Array(9)], 0, 9)).toBeUndefined();
  });
  it('finds a planted correlation', () => {
    const [a, b] = [noise(2 * rate, 1), noise(2 * rate, 2)];
    const mixed = a.map((value, i) => 0.9 * value + Math.sqrt(1 - 0.81) * b[i]);
    expect(Math.abs((widthOf([a, mixed], 0, a.length)?.correlation ?? 0) - 0.9)).toBeLessThan(0.01);
  });
});

describe('likeness of takes', () => {
  const take = (seed: number) => noise(rate / 2, seed).map((value, i) => value * Math.min(1, i / 400));
  it('is 1 for the same take, also cut differently and at another level', () => {
    const one = take(4);
    const moved = new Float32Array(one.length);
    moved.set(
      one.subarray(0, one.length - 96).map((value) => value * 0.4),
      96,
    );
    expect(likeness(one, 0, one, 0, rate)).toBeGreaterThan(0.999);
    expect(likeness(one, 0, moved, 0, rate)).toBeGreaterThan(0.99);
  });
  it('knows one again that was moved in pitch', () => {
    const wave = (i: number) => Math.sin(i * 0.05 + 3 * Math.sin(i * 0.0011)) * Math.min(1, i / 400);
    const ratio = 2 ** (3 / 12);
    const one = Float32Array.from({ length: rate }, (_, i) => wave(i));
    const borrowed = Float32Array.from({ length: rate }, (_, i) => wave(i * ratio));
    expect(likeness(borrowed, 0, one, 0, rate, ratio)).toBeGreaterThan(0.98);
    expect(likeness(borrowed, 0, one, 0, rate)).toBeLessThan(0.9);
  });
  it('finds the top between its steps when pitch was moved', () => {
    // About 4 kHz, half a step of 1/24,000 s apart: 30° of phase, of which the nearest step tells cos 30° = 0.866.
    const phase = (t: number) => 2 * Math.PI * 4000 * t + 40 * Math.sin(2 * Math.PI * 31 * t);
    const wave = (late: number) =>
      Float32Array.from({ length: rate / 2 }, (_, i) => Math.sin(phase((i - late) / rate)));
    expect(likeness(wave(0), 2000, wave(1), 2000, rate)).toBeLessThan(0.9);
    const between = likeness(wave(0), 2000, wave(1), 2000, rate, 1 + 1e-9);
    expect(Math.abs(between - 1)).toBeLessThan(0.05);
  });
  it('keeps two takes of the same apart', () => {
    expect(likeness(take(4), 0, take(5), 0, rate)).toBeLessThan(0.3);
  });
});

describe('vibrato', () => {
  const wavering = (hz: number, cents: number) => {
    let phase = 0;
    return Float32Array.from({ length: 3 * rate }, (_, i) => {
      phase += (2 * Math.PI * 440 * 2 ** ((cents * Math.sin((2 * Math.PI * hz * i) / rate)) / 1200)) / rate;
      return 0.4 * Math.sin(phase) + 0.2 * Math.sin(2 * phase);
    });
  };
  it.each([
    [5.5, 30],
    [6.4, 12],
    [4.2, 55],
  ])('finds %s Hz and ± %s cents', (hz, cents) => {
    const heard = vibratoOf(wavering(hz, cents), rate, 440, 0.2 * rate, 2.8 * rate);
    expect(Math.abs((heard?.hertz ?? 0) - hz)).toBeLessThan(0.3);
    // What is averaged over 40 ms loses a little of its width.
    expect(Math.abs((heard?.cents ?? 0) / cents - 1)).toBeLessThan(0.15);
  });
  it('hears none in a straight tone, whose track lies on its pitch', () => {
    const straight = tone(440 * 2 ** (7 / 1200), 2);
    expect(vibratoOf(straight, rate, 440, 0.2 * rate, 1.8 * rate)?.cents ?? 0).toBeLessThan(1.5);
    const track = pitchTrackCents(straight, rate, 440, 0.2 * rate, 1.8 * rate);
    expect(Math.abs(track[track.length >> 1] - 7)).toBeLessThan(0.5);
  });
});

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
});

describe('noise floor', () => {
  it('finds the hiss in front of a note within 1 dB', () => {
    const signal = noise(rate, 9).map((value) => value * 0.002);
    const level = 10 * Math.log10(signal.reduce((sum, value) => sum + value * value, 0) / signal.length);
    for (let i = rate / 2; i < rate; i++) signal[i] += 0.5 * Math.sin(i * 0.05);
    const heard = noiseFloorDb([signal], rate, rate / 2) ?? 0;
    // The quietest stretch of many lies a little under the mean.
    expect(Math.abs(heard - level)).toBeLessThan(1.5);
  });
  it('says nothing where there is nothing before the note, or digital silence', () => {
    expect(noiseFloorDb([tone(440, 1)], rate, 0)).toBeUndefined();
    expect(noiseFloorDb([new Float32Array(rate)], rate, rate / 2)).toBeUndefined();
  });
});

describe('resonances', () => {
  const notes = (ring?: number) =>
    [60, 64, 68, 72, 76].map((key) => {
      const fundamental = 440 * 2 ** ((key - 69) / 12);
      return Array.from({ length: 6 }, (_, h) => {
        const hertz = (h + 1) * fundamental;
        const near = ring !== undefined && Math.abs(1200 * Math.log2(hertz / ring)) < 40;
        return { hertz, levelDb: -6 * (h + 1) + (near ? 12 : 0) };
      });
    });
  it('are told where partials stand out in recording after recording, and nowhere else', () => {
    const ring = 440 * 2 ** ((68 - 69) / 12);
    const found = resonancesOf([notes(ring), notes(ring), notes(ring)], 9);
    expect(found).toHaveLength(1);
    expect(Math.abs(1200 * Math.log2(found[0].hertz / ring))).toBeLessThan(20);
    expect(resonancesOf([notes(), notes(), notes()], 9)).toEqual([]);
    // It stands out by 12 dB against both neighbours: 11 are reached, 13 are not.
    expect(resonancesOf([notes(ring), notes(ring), notes(ring)], 11)).toHaveLength(1);
    expect(resonancesOf([notes(ring), notes(ring), notes(ring)], 13)).toEqual([]);
  });
});

describe('recordings in trouble', () => {
  it('are told instead of measured', () => {
    expect(troubleOf([new Float32Array(rate)], rate)).toBe('silent');
    expect(troubleOf([tone(440, 0.01)], rate)).toBe('very short');
    expect(troubleOf([], rate)).toBe('very short');
    expect(troubleOf([tone(440, 1, 2).map((v) => Math.max(-1, Math.min(1, v)))], rate)).toBe('clipped');
    expect(troubleOf([tone(440, 1, 0.99)], rate)).toBeUndefined();
    // Four equal samples at the very top, not three, and not four a little below it.
    const topped = (run: number, value: number) => {
      const signal = tone(440, 1, 0.5);
      signal.fill(value, 5000, 5000 + run);
      signal[9000] = 0.99;
      return troubleOf([signal], rate);
    };
    expect([topped(4, 0.99), topped(3, 0.99), topped(4, 0.98)]).toEqual(['clipped', undefined, undefined]);
    expect(topped(4, -0.99)).toBe('clipped');
    expect(troubleOf([Float32Array.of(...new Array<number>(2000).fill(NaN))], rate)).toBe('silent');
  });
});
