import { describe, expect, it } from 'vitest';
import { bounce } from '../deliver/index.ts';
import { magnitudeSpectrum } from '../dsp/index.ts';
import { instrumentFromSfz, readSfz, type SampleFacts } from '../formats/index.ts';
import { landingSeconds, meanLevelDb, onsetSeconds } from '../measure/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { TempoMap, type Part } from '../music/index.ts';
import { planPart, soundsOf, toEvents } from '../performance/index.ts';
import type { Instrument } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { midiToHertz } from '../units/index.ts';
import {
  HARBOUR_HALL,
  hallResponse,
  recordTake,
  stringsLargeSfz,
  takeFile,
  takeOrders,
  type TakeOrder,
} from './index.ts';

const take = (kind: TakeOrder['kind'], more: Partial<TakeOrder> = {}) =>
  recordTake({ kind, root: 68, layer: 1, take: 0, vibrato: true, interval: 0, ...more }).positions;
const centroid = (sound: Float32Array) => {
  const spectrum = magnitudeSpectrum(sound.subarray(24000, 24000 + 16384));
  let sum = 0;
  let weight = 0;
  spectrum.forEach((m, i) => {
    sum += i * m;
    weight += m;
  });
  return ((sum / weight) * 48000) / 32768;
};

describe('the recorded section', () => {
  it('is the same every time, and fits the tape', () => {
    const a = take('staccato');
    const b = take('staccato');
    for (const [id, { left }] of a) {
      expect(b.get(id)?.left).toEqual(left);
      expect(Math.max(...left.map(Math.abs))).toBeLessThan(0.98);
    }
  });
  it('reaches near microphones first and far ones last, by the distance', () => {
    const onsets = [...take('pizzicato')].map(
      ([id, { left, right }]) => [id, onsetSeconds([left, right], 48000)] as const,
    );
    const at = Object.fromEntries(onsets);
    expect(at.tree).toBeGreaterThan(at.close);
    // 12 to 17 m from the players: 35 to 50 ms.
    expect(at.far - at.close).toBeGreaterThan(0.025);
    expect(at.far - at.close).toBeLessThan(0.06);
  });
  it('is brighter when louder', () => {
    const soft = take('long', { layer: 0 }).get('close');
    const loud = take('long', { layer: 2 }).get('close');
    expect(centroid(loud?.left ?? new Float32Array())).toBeGreaterThan(
      1.2 * centroid(soft?.left ?? new Float32Array()),
    );
  });
  it('rings on after the players stop, longer far away', () => {
    const release = take('release');
    const decay = (id: string) => {
      const { left, right } = release.get(id) ?? { left: new Float32Array(), right: new Float32Array() };
      return meanLevelDb([left, right], 24000, 33600) - meanLevelDb([left, right], 0, 4800);
    };
    expect(decay('far')).toBeGreaterThan(decay('close'));
    expect(decay('close')).toBeLessThan(-12);
  });
  it('is described by an SFZ of which nothing is left out', () => {
    const regions = readSfz('v.sfz', () => stringsLargeSfz());
    const facts = new Map(
      takeOrders().flatMap((order) =>
        HARBOUR_HALL.mics.map(
          (mic) => [takeFile(order, mic.id), { frames: 200_000, loops: [] }] as [string, SampleFacts],
        ),
      ),
    );
    const made = instrumentFromSfz(regions, facts);
    expect(made.unsupported).toEqual([]);
    expect(made.positions.map((p) => p.id)).toEqual(['close', 'tree', 'far']);
    expect(made.articulations.map((a) => a.id)).toEqual([
      'connected',
      'long',
      'tremolo',
      'staccato',
      'pizzicato',
    ]);
    const moves = made.articulations[0].zones.filter((zone) => zone.role === 'transition');
    // Every interval up to an octave, both ways, on a key in the middle.
    expect(
      new Set(moves.filter((zone) => zone.keyLow <= 74 && zone.keyHigh >= 74).map((zone) => zone.interval))
        .size,
    ).toBe(24);
    expect(made.articulations.find((a) => a.id === 'staccato')?.zones.every((zone) => zone.takes === 4)).toBe(
      true,
    );
  });
});

describe('a planned part, bounced', () => {
  const wanted = (o: TakeOrder) =>
    (['long', 'release'].includes(o.kind)
      ? [64, 68, 72].includes(o.root)
      : o.kind === 'staccato'
        ? [68, 72].includes(o.root)
        : o.kind === 'transition' && o.root === 72 && [3, 2, -1].includes(o.interval)) ||
    (o.kind === 'transition' && o.root === 67 && o.interval === -4);
  const audio = new Map<string, SampleAudio>();
  for (const order of takeOrders().filter(wanted))
    for (const [position, { left, right }] of recordTake(order).positions) {
      const data = new Int16Array(left.length * 2);
      for (let i = 0; i < left.length; i++)
        [data[2 * i], data[2 * i + 1]] = [Math.round(left[i] * 32767), Math.round(right[i] * 32767)];
      audio.set(takeFile(order, position), { data, channels: 2, frames: left.length, rate: 48000 });
    }
  const regions = readSfz('v.sfz', () => stringsLargeSfz()).filter((region) =>
    audio.has(region.opcodes.get('sample')?.value ?? ''),
  );
  const read = instrumentFromSfz(
    regions,
    new Map([...audio].map(([path, { frames }]) => [path, { frames, loops: [] }])),
  );
  const instrument: Instrument = {
    id: 'violins',
    name: 'Violins',
    family: 'strings',
    kind: 'section',
    players: 10,
    ...read,
    samples: {},
    packs: {},
  };
  const mix: TrackMix = {
    gainDb: 0,
    pan: 0,
    muted: false,
    hallSendDb: -60,
    positions: {
      close: { ...PLAIN_POSITION, levelDb: -4 },
      tree: PLAIN_POSITION,
      far: { ...PLAIN_POSITION, levelDb: -14 },
    },
  };
  const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
  const n = (id: string, beat: number, beats: number, key: number, velocity = 96) => ({
    id,
    startTick: beat * 960,
    endTick: (beat + beats) * 960,
    key,
    velocity,
  });
  const part: Part = {
    notes: [
      n('a', 1, 1.5, 70),
      n('b', 2.5, 1.5, 72),
      n('c', 4, 2, 71),
      n('s', 8, 0.3, 69),
      n('t', 10, 0.3, 71),
      n('u', 12, 0.3, 70, 50),
      n('p', 14, 1.5, 70),
      n('q', 17, 1.5, 70),
    ],
    marks: [
      { id: 'm', startTick: 0, endTick: 7000, articulation: 'connected' },
      { id: 'n', startTick: 7000, endTick: 13_000, articulation: 'staccato' },
    ],
    points: [
      [0, 70],
      [13_400, 70],
      [13_401, 20],
      [15_800, 20],
      [15_801, 120],
    ].map(([tick, value], i) => ({ id: `p${i}`, controller: 1, tick, value })),
  };
  const plan = planPart(part, { tempo, instrument, mix, mode: 'planned', articulation: 'long', audio });
  const chunks: [Float32Array, Float32Array][] = [];
  const figures = bounce(
    {
      instruments: [{ instrument, audio }],
      tracks: [{ instrumentId: 'violins', mix }],
      hall: hallResponse(HARBOUR_HALL),
      hallMix: { earlyDb: 0, tailDb: 0 },
      events: toEvents(plan, 0, 0),
      endFrame: 48000 * 19,
    },
    (l, r) => chunks.push([l.slice(), r.slice()]),
    () => undefined,
  );
  const join = (side: 0 | 1) => {
    const out = new Float32Array(figures.frames);
    chunks.forEach((chunk, i) => out.set(chunk[side], i * chunk[side].length));
    return out;
  };
  const [left, right] = [join(0), join(1)];
  const onsetAt = (beat: number) => {
    const from = Math.round((beat - 0.06) * 48000);
    return (
      onsetSeconds([left.subarray(from, from + 22_080), right.subarray(from, from + 22_080)], 48000) - 0.06
    );
  };

  it('speaks on the beat: shorts within 3 ms', () => {
    for (const beat of [8, 10, 12]) expect(Math.abs(onsetAt(beat))).toBeLessThan(0.003);
  });
  it('speaks on the beat: long notes within 3 ms', () => {
    expect(Math.abs(onsetAt(1))).toBeLessThan(0.003);
  });
  it('lands connected notes on the beat within 5 ms', () => {
    const mono = left.map((v, i) => v + right[i]);
    for (const [beat, from, to] of [
      [2.5, 70, 72],
      [4, 72, 71],
    ]) {
      const landing = landingSeconds(
        mono,
        48000,
        midiToHertz(from),
        midiToHertz(to),
        Math.round((beat - 0.12) * 48000),
        Math.round((beat + 0.2) * 48000),
      );
      expect(Math.abs((landing ?? 9) - beat)).toBeLessThan(0.005);
    }
  });
  it('is louder and brighter where the dynamics curve is higher', () => {
    const soft = left.subarray(Math.round(14.3 * 48000), 15 * 48000);
    const loud = left.subarray(Math.round(17.3 * 48000), 18 * 48000);
    expect(meanLevelDb([loud], 0, loud.length) - meanLevelDb([soft], 0, soft.length)).toBeGreaterThan(6);
  });
  it('ends in silence after the tail, without a click anywhere', () => {
    expect(meanLevelDb([left, right], figures.frames - 4800, figures.frames)).toBeLessThan(-100);
    const jump = left.reduce((most, v, i) => Math.max(most, Math.abs(v - (left[i - 1] ?? 0))), 0);
    expect(jump).toBeLessThan(0.35);
    expect(figures.stolen).toBe(0);
    expect(soundsOf(plan).filter((sound) => sound.gesture === 'move')).toHaveLength(2);
  });
});
