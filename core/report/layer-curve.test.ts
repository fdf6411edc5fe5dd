import { describe, expect, it } from 'vitest';
import { SOURCE, type Fade, type Modulation, type Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { layerCurve } from './layer-curve.ts';

/** Loudness and brightness along a controller, over sines whose level is known. */

const RATE = 48_000;

/** A sine on both sides. */
function sine(hertz: number, amplitude: number) {
  const channel = Float32Array.from(
    { length: RATE },
    (_, i) => amplitude * Math.sin((2 * Math.PI * hertz * i) / RATE),
  );
  return { channels: [channel, channel], rate: RATE };
}

const zone = (more: Partial<Zone> = {}) => plainZone({ samples: {}, ...more });
const looked = (own: Zone, hertz = 1000, amplitude = 0.1) => ({
  zone: own,
  audio: sine(hertz, amplitude),
  from: 0,
  to: RATE,
});
const opened = (controller: number, depth: number): Modulation => ({
  target: 'cutoffCents',
  controller,
  depth,
});
const fade = (inLow: number, inHigh: number, outLow: number, outHigh: number): Fade => ({
  controller: CONTROLLER.dynamics,
  inLow,
  inHigh,
  outLow,
  outHigh,
});
/** |H|² of a Butterworth low-pass of two poles, in dB. */
const butterworthDb = (hertz: number, cutoff: number) => -10 * Math.log10(1 + (hertz / cutoff) ** 4);

describe('a filter that a controller opens', () => {
  const open = layerCurve([looked(zone())], 60, 'dynamics').lufs;
  const against = (own: Partial<Zone>, ruler: 'dynamics' | 'velocity' = 'dynamics') =>
    layerCurve([looked(zone(own))], 60, ruler).lufs.map((value, i) => value - open[i]);
  it('takes from a tone what two poles take at its cutoff of that moment', () => {
    for (const filter of [undefined, 'lowpass2'] as const) {
      const taken = against({
        cutoffHz: 500,
        filter,
        modulations: [opened(CONTROLLER.dynamics, 2400)],
      });
      for (const value of [1, 32, 64, 96, 127])
        expect(taken[value - 1]).toBeCloseTo(butterworthDb(1000, 500 * 2 ** ((2 * value) / 127)), 1);
    }
  });
  it('follows velocity where that is ridden, and stays half open at the vibrato of the middle', () => {
    const byVelocity = against(
      { cutoffHz: 500, modulations: [opened(SOURCE.velocity, 1200), opened(CONTROLLER.vibrato, 1200)] },
      'velocity',
    );
    for (const value of [1, 64, 127])
      expect(byVelocity[value - 1]).toBeCloseTo(butterworthDb(1000, 500 * 2 ** ((value + 64) / 127)), 1);
  });
  it('rests where other controllers would move it, and where only levels are moved', () => {
    const still = against({
      cutoffHz: 1000,
      modulations: [opened(74, 2400), { ...opened(CONTROLLER.dynamics, 0), target: 'cutoffCents' }],
    });
    for (const value of [1, 127]) expect(still[value - 1]).toBeCloseTo(-10 * Math.log10(2), 1);
  });
  it('of another kind is not worked out as a low-pass', () => {
    for (const filter of ['highpass2', 'lowpass1'] as const)
      for (const off of against({ cutoffHz: 200, filter })) expect(off).toBe(0);
  });
});

describe('layers that cross', () => {
  /** A soft layer that fades out while a loud one fades in, from 50 to 70. */
  const crossing = (softly: number, loudly: number, high = 1000) =>
    layerCurve(
      [
        looked(zone({ fades: [fade(0, 0, 50, 70)] }), 1000, softly),
        looked(zone({ fades: [fade(50, 70, 127, 127)] }), high, loudly),
      ],
      60,
      'dynamics',
    );
  it('show where the foremost changes, how long both are heard, and how alike they are', () => {
    const [step, ...more] = crossing(0.1, 0.1).steps;
    expect(more).toEqual([]);
    expect(Math.abs(step.at - 60)).toBeLessThanOrEqual(1);
    expect(step.coherence).toBeGreaterThan(0.99);
    expect(step.overlap).toBeGreaterThan(4);
    expect(step.overlap).toBeLessThan(20);
    expect(Math.abs(step.stepLu)).toBeLessThan(0.3);
  });
  it('tell tones that have nothing in common', () => {
    expect(crossing(0.1, 0.1, 1500).steps[0].coherence).toBeLessThan(0.05);
  });
  it('end at the loudness of either recording', () => {
    const { lufs } = crossing(0.05, 0.2);
    expect(lufs[126] - lufs[0]).toBeCloseTo(20 * Math.log10(4), 1);
  });
  it('that change at once jump by what lies between them', () => {
    const [step] = layerCurve(
      [
        looked(zone({ velocityLow: 1, velocityHigh: 80 }), 1000, 0.05),
        looked(zone({ velocityLow: 81, velocityHigh: 127 }), 1000, 0.1),
      ],
      60,
      'velocity',
    ).steps;
    expect(step.at).toBe(81);
    expect(step.stepLu).toBeCloseTo(20 * Math.log10(2), 1);
    expect(step.stepOctaves).toBeCloseTo(0, 2);
    expect(step.overlap).toBe(0);
  });
});
