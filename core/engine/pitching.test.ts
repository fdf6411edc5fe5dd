import { describe, expect, it } from 'vitest';
import { hann, magnitudeSpectrum } from '../dsp/index.ts';
import { instrumentOf, mixOf, plainZone, startEvent } from '../testing/fixtures.ts';
import { Engine, prepareInstrument, type SampleAudio } from './index.ts';
import type { Zone } from '../catalogue/index.ts';

const RATE = 48_000;
const LENGTH = 16_384;
const window = hann(LENGTH);

/** A sine in floats, so that nothing but its pitching adds noise. */
function tone(hz: number, frames = 8 * RATE): SampleAudio {
  const data = Float32Array.from(
    { length: 2 * frames },
    (_, i) => 0.5 * Math.sin((2 * Math.PI * hz * (i >> 1)) / RATE),
  );
  return { data, channels: 2, frames, rate: RATE };
}

/** What is heard of a key played on a recording of A4: levels in dB against the recorded tone. */
interface Heard {
  /** At exactly one frequency. */
  at: (hz: number) => number;
  /** The loudest of everything that is further than 120 Hz from one frequency. */
  loudestBut: (hz: number) => number;
}

function heard(sample: SampleAudio, key: number, zone: Partial<Zone> = {}): Heard {
  const audio = new Map([['a', sample]]);
  const own = plainZone({ samples: { mix: { sample: 'a' } }, ...zone });
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones: [own] }], audio);
  const engine = new Engine(8);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  engine.tracks[0].setMix(mixOf(['mix']), RATE);
  engine.reset();
  engine.setEvents([startEvent({ key })]);
  const left = new Float32Array(LENGTH + 8192);
  const right = new Float32Array(128);
  for (let at = 0; at < left.length; at += 128) engine.renderMix(left.subarray(at, at + 128), right);
  const windowed = Float64Array.from(window, (w, i) => w * left[8192 + i]);
  const spectrum = magnitudeSpectrum(windowed);
  // A Hann window gives half of the amplitude: 0.5 · LENGTH / 4 for a sine of 0.5.
  const full = (0.5 * LENGTH) / 4;
  const db = (magnitude: number) => 20 * Math.log10(magnitude / full + 1e-12);
  return {
    at: (hz) => {
      let re = 0;
      let im = 0;
      windowed.forEach((value, i) => {
        re += value * Math.cos((2 * Math.PI * hz * i) / RATE);
        im += value * Math.sin((2 * Math.PI * hz * i) / RATE);
      });
      return db(Math.hypot(re, im));
    },
    loudestBut: (hz) =>
      db(
        spectrum.reduce(
          (most, value, i) => (Math.abs((i * RATE) / LENGTH - hz) > 120 ? Math.max(most, value) : most),
          0,
        ),
      ),
  };
}

describe('pitching', () => {
  it('leaves images of a 15 kHz tone a semitone up below −80 dB, and the tone within 0.6 dB', () => {
    const hz = 15_000 * 2 ** (1 / 12);
    const level = heard(tone(15_000), 70);
    expect(level.at(hz)).toBeGreaterThan(-0.6);
    expect(level.at(hz)).toBeLessThan(0.2);
    expect(level.loudestBut(hz)).toBeLessThan(-80);
  });
  it('leaves images of a 10 kHz tone an octave up below −80 dB', () => {
    expect(heard(tone(10_000), 81).loudestBut(20_000)).toBeLessThan(-80);
  });
  it('keeps treble from folding back an octave up: 15 kHz would be heard at 18 kHz', () => {
    expect(heard(tone(15_000), 81).loudestBut(0)).toBeLessThan(-80);
  });
  it.each([[62], [66], [72], [74], [78], [88], [100]])('is clean at 5 kHz and below (key %i)', (key) => {
    const ratio = 2 ** ((key - 69) / 12);
    const hz = Math.min(5000, 9000 / ratio);
    const level = heard(tone(hz), key);
    expect(Math.abs(level.at(hz * ratio))).toBeLessThan(0.2);
    expect(level.loudestBut(hz * ratio)).toBeLessThan(-90);
  });
  it('takes what lies between two tones of the wider curves as it is', () => {
    // A step of a semitone in the width of the curve is not heard below 10 kHz.
    const levels = [73, 74, 75, 76, 77].map((key) => {
      const ratio = 2 ** ((key - 69) / 12);
      return heard(tone(10_000 / ratio), key).at(10_000);
    });
    for (const level of levels) expect(Math.abs(level)).toBeLessThan(0.3);
  });
  it('goes round a loop of a single wave without a trace, whatever the pitch', () => {
    // 120 frames: 400 Hz, looped after its first wave.
    for (const key of [69, 57, 73, 76, 84]) {
      const hz = 400 * 2 ** ((key - 69) / 12);
      const level = heard(tone(400, 240), key, { loop: { start: 120, end: 240 } });
      expect(level.at(hz)).toBeGreaterThan(-0.1);
      expect(level.loudestBut(hz), `key ${key}`).toBeLessThan(-90);
    }
  });
});
