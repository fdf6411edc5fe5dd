import { describe, expect, it } from 'vitest';
import type { Articulation, Fade, Instrument, SampleInfo, Zone } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { instrumentOf, plainZone, whiteNoise } from '../testing/fixtures.ts';
import { midiToHertz } from '../units/index.ts';
import {
  findingsOf,
  measureArticulation,
  READINGS,
  type ArticulationReport,
  type HeardSample,
} from './index.ts';

/** Reports over instruments whose truth is known: tones put together here, with faults planted one by one. */

const RATE = 48_000;
const KEYS = [60, 64, 68, 72, 76];

interface Tone {
  key: number;
  seconds: number;
  /** Silence in front of it. */
  late?: number;
  cents?: number;
  level?: number;
  bright?: number;
  /** Varies the phases and a little noise, so that takes differ. */
  seed?: number;
}

/** A tone of six partials with a quick rise and some breath, stereo. */
function tone({ key, seconds, late = 0, cents = 0, level = 0.2, bright = 1, seed = 1 }: Tone): HeardSample {
  const frames = Math.round((seconds + late) * RATE);
  const hertz = midiToHertz(key) * 2 ** (cents / 1200);
  const breath = [whiteNoise(frames, seed * 77 + key), whiteNoise(frames, seed * 131 + key)];
  const channels = [0, 1].map((channel) =>
    Float32Array.from({ length: frames }, (_, i) => {
      const t = i / RATE - late;
      if (t < 0) return 0;
      let sum = 0;
      for (let h = 1; h <= 6; h++)
        sum +=
          (Math.sin(2 * Math.PI * hertz * h * t + (seed + 0.37 * key) * h * h + channel * h) / h) *
          (h > 2 ? bright : 1);
      const fall = Math.min(1, Math.max(0, (seconds - t) / 0.05));
      return level * Math.min(1, t / 0.006) * fall * (sum + 0.04 * breath[channel][i]);
    }),
  );
  return { channels, rate: RATE };
}

const shorts = (change: (key: number, take: number) => Partial<Tone> = () => ({})) => {
  const audio = new Map<string, HeardSample>();
  const zones: Zone[] = KEYS.flatMap((key) =>
    [0, 1, 2].map((take) => {
      const id = `short ${key} ${take}`;
      audio.set(id, tone({ key, seconds: 0.35, seed: take + 1, ...change(key, take) }));
      return plainZone({
        rootKey: key,
        keyLow: key - 2,
        keyHigh: key + 1,
        take,
        takes: 3,
        oneShot: true,
        samples: { close: { sample: id } },
      });
    }),
  );
  return { articulation: { id: 'staccato', name: 'staccato', zones }, audio };
};

const fade = (inLow: number, inHigh: number, outLow: number, outHigh: number): Fade => ({
  controller: CONTROLLER.dynamics,
  inLow,
  inHigh,
  outLow,
  outHigh,
});

/** Held notes in two layers that cross from controller 40 to 88; `gainDb` is planted on the upper one. */
const longs = (gainDb: number, windows = [fade(0, 0, 40, 88), fade(40, 88, 127, 127)]) => {
  const audio = new Map<string, HeardSample>();
  const zones = KEYS.flatMap((key) =>
    [0, 1].map((layer) => {
      const id = `long ${key} ${layer}`;
      audio.set(
        id,
        tone({ key, seconds: 2.5, seed: layer + 5, level: 0.1 * 10 ** ((layer ? gainDb : 0) / 20) }),
      );
      return plainZone({
        rootKey: key,
        keyLow: key - 2,
        keyHigh: key + 1,
        fades: [windows[layer]],
        samples: { close: { sample: id } },
      });
    }),
  );
  return { articulation: { id: 'long', name: 'long', zones }, audio };
};

const infoOf = (id: string, audio: HeardSample | undefined): SampleInfo => ({
  id,
  rate: RATE,
  channels: audio?.channels.length === 1 ? 1 : 2,
  format: 'i16',
  frames: audio?.channels[0].length ?? RATE,
  pack: 'pack',
  headOffset: 0,
  headFrames: 0,
  tailOffset: 0,
});

function report(made: { articulation: Articulation; audio: Map<string, HeardSample> }): ArticulationReport {
  const instrument: Instrument = {
    ...instrumentOf([], new Map(), ['close']),
    articulations: [made.articulation],
    samples: Object.fromEntries(
      made.articulation.zones
        .flatMap((zone) => Object.values(zone.samples))
        .map(({ sample }) => [sample, infoOf(sample, made.audio.get(sample))]),
    ),
  };
  return measureArticulation(
    instrument,
    made.articulation,
    (id) => made.audio.get(id),
    () => undefined,
  );
}

const findings = (one: ArticulationReport) =>
  findingsOf({ name: 'Test section', kind: 'section', reports: [one] }, []);
const codes = (one: ArticulationReport) =>
  findings(one)
    .filter((finding) => finding.weight === 'fault')
    .map((finding) => finding.code);

/** Every number anywhere in a value. */
function numbersIn(value: unknown): number[] {
  if (typeof value === 'number') return [value];
  if (Array.isArray(value)) return value.flatMap(numbersIn);
  return value && typeof value === 'object' ? Object.values(value).flatMap(numbersIn) : [];
}

describe('onsets', () => {
  it('are found within 2 ms of where each take was put, and the lateness is told', () => {
    const late = [0.021, 0.058, 0.036];
    const even = report(shorts());
    const planted = report(shorts((_, take) => ({ late: late[take] })));
    const base = even.onsets.reduce((sum, one) => sum + one.seconds, 0) / even.onsets.length;
    expect(base).toBeLessThan(0.008);
    for (const one of planted.onsets)
      expect(Math.abs(one.seconds - base - late[one.take])).toBeLessThan(0.002);
    expect(codes(planted)).toEqual(['late-short']);
    expect(findings(planted)[0].sentence).toMatch(
      /37 ms after the key, and takes of C4 differ by 3[78] ms.*limp/,
    );
    expect(codes(even)).toEqual([]);
  });
});

describe('takes', () => {
  it('that are repeated are told, with the take they repeat', () => {
    const one = report(shorts((_, take) => ({ seed: take === 2 ? 1 : take + 1 })));
    expect(new Set(one.sameTakes.map((same) => `${same.kind} ${same.take} ${same.otherTake}`))).toEqual(
      new Set(['repeated 2 0']),
    );
    expect(one.sameTakes).toHaveLength(KEYS.length);
    expect(codes(one)).toEqual(['repeated-take']);
  });
  it('that are borrowed from the key below are told with that key', () => {
    const made = shorts();
    // Take 3 of 68 is take 1 of 64, moved up by reading it faster.
    const from = made.audio.get('short 64 0');
    const ratio = 2 ** (4 / 12);
    const channels = (from?.channels ?? []).map((channel) =>
      Float32Array.from({ length: Math.floor(channel.length / ratio) - 1 }, (_, i) => {
        const at = Math.floor(i * ratio);
        return channel[at] + (i * ratio - at) * (channel[at + 1] - channel[at]);
      }),
    );
    made.audio.set('short 68 2', { channels, rate: RATE });
    const one = report(made);
    expect(one.sameTakes).toMatchObject([{ kind: 'borrowed', key: 68, take: 2, otherKey: 64 }]);
    expect(codes(one)).toEqual(['borrowed-take']);
  });
});

describe('tuning', () => {
  it.each([-23, 9, 31])('a root %s cents off is found within one cent', (cents) => {
    const one = report(shorts((key) => (key === 68 ? { cents } : {})));
    const at = (key: number) => one.tuning.find((figure) => figure.key === key)?.cents ?? 99;
    expect(Math.abs(at(68) - cents)).toBeLessThan(1);
    for (const key of KEYS.filter((key) => key !== 68)) expect(Math.abs(at(key))).toBeLessThan(1);
    expect(codes(one)).toEqual(Math.abs(cents) > 14 ? ['mistuned'] : []);
  });
});

describe('layers', () => {
  it.each([6, 9.5])('that differ by %s LU are measured within 0.5 LU', (gainDb) => {
    const one = report(longs(gainDb));
    const [soft, loud] = [0, 1].map((layer) =>
      one.positions[0].levels.filter((level) => level.layer === layer),
    );
    soft.forEach((level, i) => expect(Math.abs(loud[i].lufs - level.lufs - gainDb)).toBeLessThan(0.5));
    expect(codes(one)).toEqual([]);
  });
  it('that take over at once are told as a step of what was planted', () => {
    const one = report(longs(8, [fade(0, 0, 63, 65), fade(63, 65, 127, 127)]));
    const steps = one.curves.flatMap((curve) => curve.steps);
    expect(steps.length).toBeGreaterThan(0);
    for (const step of steps) {
      expect(Math.abs(step.stepLu - 8)).toBeLessThan(0.5);
      expect(Math.abs(step.at - 64)).toBeLessThanOrEqual(3);
    }
    expect(codes(one)).toEqual(['layer-step']);
  });
});

describe('short notes', () => {
  it('of one key are as bright as each other where one only rings longer', () => {
    const seconds = 0.4;
    /** A stroke whose treble dies away, cut off or not. */
    const stroke = (key: number, cut: number): HeardSample => {
      const hertz = midiToHertz(key);
      const channel = Float32Array.from({ length: seconds * RATE }, (_, i) => {
        const t = i / RATE;
        const gate = Math.min(1, t / 0.002) * Math.min(1, Math.max(0, (cut - t) / 0.005));
        const treble = 0.5 * Math.exp(-t / 0.04) * Math.sin(2 * Math.PI * 8 * hertz * t);
        return 0.2 * gate * (Math.sin(2 * Math.PI * hertz * t) + treble);
      });
      return { channels: [channel, channel], rate: RATE };
    };
    const audio = new Map<string, HeardSample>();
    const zones = KEYS.flatMap((key) =>
      [0, 1].map((layer) => {
        const id = `hit ${key} ${layer}`;
        audio.set(id, stroke(key, layer === 0 ? 0.09 : seconds));
        return plainZone({
          rootKey: key,
          keyLow: key - 2,
          keyHigh: key + 1,
          velocityLow: layer === 0 ? 1 : 64,
          velocityHigh: layer === 0 ? 63 : 127,
          oneShot: true,
          samples: { close: { sample: id } },
        });
      }),
    );
    const { levels } = report({ articulation: { id: 'staccato', name: 'staccato', zones }, audio })
      .positions[0];
    for (const key of KEYS) {
      const [brief, long] = levels.filter((level) => level.key === key);
      expect(long.centroidHz / brief.centroidHz).toBeCloseTo(1, 1);
    }
  });
});

describe('trouble', () => {
  it('is told for silent, clipped, one-channel, very short and missing recordings, and nothing becomes NaN', () => {
    const made = shorts();
    made.audio.set('short 60 0', { channels: [new Float32Array(RATE), new Float32Array(RATE)], rate: RATE });
    made.audio.set('short 64 0', { channels: [new Float32Array(100)], rate: RATE });
    const loud = tone({ key: 68, seconds: 0.35, level: 3 });
    made.audio.set('short 68 0', {
      ...loud,
      channels: loud.channels.map((channel) => channel.map((v) => Math.max(-1, Math.min(1, v)))),
    });
    const single = tone({ key: 72, seconds: 0.35 });
    made.audio.set('short 72 0', { ...single, channels: [single.channels[0]] });
    made.audio.delete('short 76 0');
    const one = report(made);
    expect(one.troubled.map(({ key, trouble }) => `${key} ${trouble}`)).toEqual([
      '60 silent',
      '64 very short',
      '68 clipped',
      '76 missing',
    ]);
    expect(numbersIn(one).every(Number.isFinite)).toBe(true);
    expect(findings(one).filter((finding) => finding.code === 'trouble')).toHaveLength(4);
    expect(one.onsets.some((onset) => onset.key === 72 && onset.take === 0)).toBe(true);
  });
  it('of everything at once gives an empty report', () => {
    const made = shorts();
    for (const id of made.audio.keys()) made.audio.set(id, { channels: [new Float32Array(10)], rate: RATE });
    const one = report(made);
    expect(one.onsets).toEqual([]);
    expect(numbersIn(one).every(Number.isFinite)).toBe(true);
    expect(
      READINGS.map((kind) => kind.read({ report: one, all: [one], position: undefined, middleC: 4 })),
    ).toBeDefined();
  });
});

describe('readings', () => {
  it('say what each figure means, and where to hear it within the range', () => {
    const one = report(shorts((_, take) => ({ late: [0.02, 0.06, 0.04][take] })));
    const read = (id: string) =>
      READINGS.find((kind) => kind.id === id)?.read({
        report: one,
        all: [one],
        position: 'close',
        middleC: 4,
      });
    expect(read('speaks')?.figure).toMatch(/^4\d ms$/);
    // Takes and keys are told apart: every key has the same takes.
    expect(read('speaks')?.meaning).toMatch(
      /; takes of a note differ by up to (39|40|41) ms; keys by [0-4] ms$/,
    );
    expect(read('decay')?.figure).toBe('');
    expect(read('decay')?.meaning).toMatch(/^cannot be measured, because /);
    expect(read('fastest')?.figure).toMatch(/sixteenths at 7\d/);
    expect(read('takes')).toMatchObject({ figure: '3', meaning: 'all different' });
    expect(read('range')?.figure).toBe('A#3 to F5');
    expect(read('moves')).toBeNull();
    for (const kind of READINGS) {
      const hear = kind.read({ report: one, all: [one], position: 'close', middleC: 4 })?.hear;
      for (const key of hear?.keys ?? []) expect(key).toBeGreaterThanOrEqual(48);
    }
  });
});
