import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { plainZone } from '../testing/fixtures.ts';
import { chordFigure } from './chords.ts';
import type { Measuring } from './measuring.ts';
import type { HeardSample } from './zones.ts';

/** A triad against its three notes, over sines whose sums are known. */

const RATE = 48_000;

interface Tone {
  hertz: number;
  phase?: number;
  amplitude?: number;
}

/** Three seconds of sines from the first frame on, alike on both sides. */
function tones(...list: Tone[]): HeardSample {
  const channel = Float32Array.from({ length: 3 * RATE }, (_, i) =>
    list.reduce(
      (sum, { hertz, phase = 0, amplitude = 0.1 }) =>
        sum + amplitude * Math.sin((2 * Math.PI * hertz * i) / RATE + phase),
      0,
    ),
  );
  return { channels: [channel, channel], rate: RATE };
}

const zoneOf = (sample: string, key: number, more: Partial<Zone> = {}) =>
  plainZone({ samples: { near: { sample } }, rootKey: key, keyLow: key, keyHigh: key, ...more });

function figure(zones: readonly Zone[], audio: Readonly<Record<string, HeardSample>>, positions = ['near']) {
  const context: Measuring = {
    articulation: { id: 'long', name: 'long', zones: [...zones] },
    layers: [{ zones: [...zones], touch: { velocity: 90, dynamics: 80, vibrato: 64 } }],
    near: 'near',
    sound: (zone, position = 'near') => audio[zone.samples[position]?.sample ?? ''],
  };
  return chordFigure(context, positions);
}

/** Zones of the triad on 60, between two roots so that 60 is in the middle of all. */
const triad = (more: Partial<Zone>[] = [{}, {}, {}]) => [
  zoneOf('low', 40),
  zoneOf('low', 41),
  ...[60, 64, 67].map((key, i) => zoneOf(`n${i}`, key, more[i])),
];
const low = tones({ hertz: 1000 });

describe('a triad', () => {
  it('whose notes meet in step grows by as much as three equal waves do, and loses what meets against it', () => {
    const inStep = [0, Math.PI / 2, Math.PI].map((phase) => tones({ hertz: 300 }, { hertz: 2500, phase }));
    const [n0, n1, n2] = inStep;
    expect(figure(triad(), { low, n0, n1, n2 })).toEqual({
      key: 60,
      // 9 times the power of one against 3 times; with a half turn between two, once against 3 times.
      lowMidsDb: Math.round(100 * Math.log10(3)) / 10,
      presenceDb: -Math.round(100 * Math.log10(3)) / 10,
    });
  });
  it('of notes that have nothing in common holds what they add up to', () => {
    const [n0, n1, n2] = [200, 250, 400].map((hertz) => tones({ hertz }, { hertz: 2000 + hertz * 2 }));
    expect(figure(triad(), { low, n0, n1, n2 })).toEqual({ key: 60, lowMidsDb: 0, presenceDb: 0 });
  });
  it('hears its notes as loud as their zones play them', () => {
    const one = tones({ hertz: 300 }, { hertz: 2500 });
    // 1, 1 and ½: 6.25 against 2.25.
    const softer = triad([{}, {}, { gainDb: 20 * Math.log10(0.5) }]);
    expect(figure(softer, { low, n0: one, n1: one, n2: one })?.lowMidsDb).toBeCloseTo(4.4, 5);
  });
  it('moves a recording to the keys it serves, and takes it from no zone that does not reach there', () => {
    const shared = plainZone({ samples: { near: { sample: 'n' } }, rootKey: 60, keyLow: 60, keyHigh: 67 });
    const beside = [
      zoneOf('loud', 59, { keyLow: 40, keyHigh: 59, gainDb: 30 }),
      zoneOf('loud', 68, { keyLow: 68, keyHigh: 90, gainDb: 30 }),
    ];
    const audio = { n: tones({ hertz: 200 }, { hertz: 2050 }), loud: tones({ hertz: 300 }, { hertz: 2500 }) };
    // 200, 252 and 300 Hz, 2,050, 2,583 and 3,071 Hz: nothing meets.
    expect(figure([...beside, shared], audio)).toEqual({ key: 60, lowMidsDb: 0, presenceDb: 0 });
  });
  it('adds positions, and leaves out those without a recording and other takes', () => {
    const one = tones({ hertz: 300 }, { hertz: 2500 });
    const against = tones({ hertz: 300, phase: Math.PI }, { hertz: 2500, phase: Math.PI });
    const both = [60, 64, 67].map((key, i) =>
      plainZone({
        samples: { near: { sample: `n${i}` }, far: { sample: 'far' } },
        rootKey: key,
        keyLow: key,
        keyHigh: key,
      }),
    );
    const again = triad().map((zone) => ({ ...zone, take: 1, takes: 2, gainDb: 40 }));
    const audio = { low, n0: one, n1: one, n2: one };
    const plain = figure([zoneOf('low', 40), zoneOf('low', 41), ...both, ...again], audio);
    expect(figure([zoneOf('low', 40), zoneOf('low', 41), ...both], audio, ['near', 'far'])).toEqual(plain);
    // With a far position that takes everything away there is nothing left to grow.
    expect(
      figure([zoneOf('low', 40), zoneOf('low', 41), ...both], { ...audio, far: against }, ['near', 'far']),
    ).not.toEqual(plain);
  });
  it('is not told where one of its notes is not there, or cannot be heard', () => {
    const [n0, n1, n2] = [300, 300, 300].map((hertz) => tones({ hertz }));
    expect(figure(triad().slice(0, 4), { low, n0, n1, n2 })).toBeUndefined();
    expect(figure(triad(), { low, n0, n1 })).toBeUndefined();
  });
});
