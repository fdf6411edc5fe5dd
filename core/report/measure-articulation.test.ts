import { describe, expect, it } from 'vitest';
import type { Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { instrumentOf, plainZone } from '../testing/fixtures.ts';
import { fadeIn } from '../testing/measuring.ts';
import { midiToHertz } from '../units/index.ts';
import { measureArticulation } from './measure-articulation.ts';
import type { HeardSample } from './zones.ts';

/** What a report is made of: which recordings are looked at for which figure, over tones that are put together here. */

const RATE = 48_000;

interface Tone {
  key: number;
  seconds?: number;
  level?: number;
  /** Seconds of a straight rise, from silence at the beginning. */
  rise?: number;
  lead?: number;
  cents?: number;
  /** Cents per second. */
  drift?: number;
}
function tone({
  key,
  seconds = 2,
  level = 0.1,
  rise = 0.004,
  lead = 0,
  cents = 0,
  drift = 0,
}: Tone): HeardSample {
  const hertz = midiToHertz(key) * 2 ** (cents / 1200);
  let phase = 0;
  const channel = Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) => {
    const t = i / RATE - lead;
    if (t < 0) return 0;
    phase += (2 * Math.PI * hertz * 2 ** ((drift * t) / 1200)) / RATE;
    return (
      level *
      Math.min(1, t / rise) *
      (Math.sin(phase) + 0.5 * Math.sin(2 * phase) + 0.3 * Math.sin(3 * phase))
    );
  });
  return { channels: [channel, channel], rate: RATE };
}
const zone = (sample: string, key: number, more: Partial<Zone> = {}) =>
  plainZone({ samples: { close: { sample } }, rootKey: key, keyLow: key, keyHigh: key, ...more });

function measured(
  id: string,
  zones: Zone[],
  audio: Record<string, HeardSample | undefined>,
  positions = ['close'],
) {
  const articulation = { id, name: `My ${id}`, zones };
  const told: number[] = [];
  const instrument = {
    ...instrumentOf([articulation], new Map(), positions),
    samples: Object.fromEntries(
      zones
        .flatMap(({ samples }) => Object.values(samples))
        .map(({ sample: name }) => [
          name,
          {
            id: name,
            rate: RATE,
            channels: 2 as const,
            format: 'i16' as const,
            frames: audio[name]?.channels[0].length ?? RATE,
            pack: 'pack',
            headOffset: 0,
            headFrames: 0,
            tailOffset: 0,
          },
        ]),
    ),
  };
  const report = measureArticulation(
    instrument,
    articulation,
    (name) => audio[name],
    (share) => told.push(share),
  );
  return { report, told };
}

describe('a report', () => {
  const keys = [60, 64, 67];
  const audio = Object.fromEntries(keys.map((key) => [`${key}`, tone({ key })]));
  const zones = keys.map((key) => zone(`${key}`, key));
  it('names what it is of, and counts layers, takes and bytes', () => {
    const { report } = measured('long', zones, audio);
    expect(report).toMatchObject({
      articulation: 'long',
      name: 'My long',
      range: { low: 60, high: 67 },
      layers: 1,
      takes: 1,
      troubled: [],
    });
    // Two seconds of 16 bits, twice, three times.
    expect(report.bytes).toBe(3 * 2 * 2 * 2 * RATE);
    expect(report.positions.map(({ bytes }) => bytes)).toEqual([report.bytes]);
  });
  it('tells how far it has come, in order', () => {
    const { told } = measured('long', zones, audio);
    expect(told.length).toBeGreaterThan(4);
    expect([...told].sort((a, b) => a - b)).toEqual(told);
    expect(told[0]).toBeCloseTo(0.1, 9);
    expect(told[1]).toBeCloseTo(0.6, 9);
    expect(Math.max(...told)).toBeLessThanOrEqual(1);
  });
  it('of nothing but missing recordings tells these, and no figure', () => {
    const { report } = measured('long', zones, {});
    expect(report.troubled).toEqual(keys.map((key) => ({ position: 'close', key, trouble: 'missing' })));
    expect([report.positions, report.onsets, report.tuning, report.chords]).toEqual([[], [], [], []]);
  });
  it('looks at the nearest position that is there', () => {
    const both = keys.map((key) =>
      zone(`${key}`, key, { samples: { close: { sample: 'gone' }, far: { sample: `${key}` } } }),
    );
    const { report } = measured('long', both, audio, ['far', 'close']);
    expect(report.positions.map(({ id, levels }) => [id, levels.length])).toEqual([
      ['close', 0],
      ['far', 3],
    ]);
    expect(report.onsets.map(({ key }) => key)).toEqual(keys);
    // A recording that serves several zones is told once.
    expect(report.troubled).toEqual([{ position: 'close', key: 60, trouble: 'missing' }]);
  });
});

describe('when notes speak', () => {
  const told = (order: Omit<Tone, 'key'>, more: Partial<Zone> = {}) =>
    measured('long', [zone('a', 60, more)], { a: tone({ key: 60, ...order }) }).report.onsets;
  it.each([0, 0.03, 0.08])('is told %s s after the key', (lead) => {
    const [{ seconds }] = told({ lead });
    expect(Math.abs(seconds - lead)).toBeLessThan(0.005);
  });
  it('is counted from where a zone begins', () => {
    const [{ seconds }] = told({ lead: 0.08 }, { startFrame: 0.05 * RATE });
    expect(Math.abs(seconds - 0.03)).toBeLessThan(0.005);
  });
  it('is told take by take and layer by layer, what vibrato brings in aside', () => {
    const list = [
      zone('a', 60, { velocityHigh: 63, takes: 2 }),
      zone('b', 60, { velocityHigh: 63, take: 1, takes: 2 }),
      zone('a', 60, { velocityLow: 64 }),
      zone('b', 60, { velocityHigh: 63, fades: [fadeIn(CONTROLLER.vibrato, 0, 127)] }),
    ];
    const { report } = measured('long', list, { a: tone({ key: 60 }), b: tone({ key: 60, lead: 0.05 }) });
    expect(report.onsets.map(({ layer, take, seconds }) => [layer, take, seconds > 0.04])).toEqual([
      [0, 0, false],
      [0, 1, true],
      [1, 0, false],
    ]);
  });
});

describe('tones', () => {
  const keys = [60, 62, 64, 65, 67];
  const audio = Object.fromEntries(keys.map((key) => [`${key}`, tone({ key, cents: key - 60 })]));
  const zones = keys.map((key) => zone(`${key}`, key));
  it('are told in tune or not, root by root, with where they drift', () => {
    const { report } = measured('long', zones, { ...audio, 62: tone({ key: 62, drift: 10, seconds: 3 }) });
    expect(report.tuning.map(({ key }) => key)).toEqual(keys);
    for (const { key, cents, driftCents } of report.tuning)
      if (key !== 62) {
        expect(Math.abs(cents - (key - 60))).toBeLessThan(0.5);
        expect(Math.abs(driftCents)).toBeLessThan(0.5);
      }
    // Over 1.2 seconds of 10 cents a second the halves lie 6 apart.
    expect(Math.abs((report.tuning[1].driftCents ?? 0) - 6)).toBeLessThan(1);
  });
  it.each(['trill half', 'fall', 'cluster'])('of %s move by intention and have no tuning', (id) => {
    const { report } = measured(id, zones, audio);
    expect([report.tuning, report.vibrato, report.partials]).toEqual([[], [], []]);
  });
  it('are looked at for vibrato on a low, a middle and a high root', () => {
    const { report } = measured('long', zones, audio);
    expect(
      [...new Set(report.vibrato.map(({ key }) => key))].every((key) => [60, 64, 67].includes(key)),
    ).toBe(true);
  });
  it('have their partials told once for every layer, from three notes on', () => {
    const layered = keys.flatMap((key) => [
      zone(`${key}`, key, { velocityLow: 64 }),
      ...(key < 64 ? [zone(`${key}`, key, { velocityHigh: 63 })] : []),
    ]);
    const { report } = measured('long', layered, audio);
    expect(report.partials.map((notes) => notes.length)).toEqual([5]);
    const [lowest] = report.partials[0];
    expect(Math.abs(lowest[0].hertz - midiToHertz(60))).toBeLessThan(1);
    // Of 1, ½ and 0.3 in amplitude.
    expect(lowest[1].levelDb - lowest[0].levelDb).toBeCloseTo(20 * Math.log10(0.5), 0);
    expect(lowest[2].levelDb - lowest[0].levelDb).toBeCloseTo(20 * Math.log10(0.3), 0);
  });
  it('are as loud as they are played', () => {
    const level = (gainDb: number) =>
      measured(
        'long',
        keys.map((key) => zone(`${key}`, key, { gainDb })),
        audio,
      ).report.partials[0][0][0].levelDb;
    expect(level(0) - level(-6)).toBeCloseTo(6, 1);
  });
});

describe('curves', () => {
  it('are drawn for a low, a middle and a high root of first takes', () => {
    const keys = [60, 62, 64, 65, 67];
    const zones = keys.flatMap((key) => [
      zone(`${key}`, key, { takes: 2 }),
      zone('other', key, { take: 1, takes: 2, gainDb: 40 }),
    ]);
    const audio = {
      ...Object.fromEntries(keys.map((key) => [`${key}`, tone({ key })])),
      other: tone({ key: 60 }),
    };
    const { report } = measured('long', zones, audio);
    expect(report.curves.map(({ key }) => key)).toEqual([60, 64, 67]);
    for (const { lufs } of report.curves) for (const value of lufs) expect(value).toBeLessThan(-10);
  });
});
