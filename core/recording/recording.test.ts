import { describe, expect, it } from 'vitest';
import { bounce } from '../deliver/index.ts';
import { magnitudeSpectrum } from '../dsp/index.ts';
import { foundInSfz, readSfz, type SampleFacts } from '../formats/index.ts';
import { assemble, guessMeanings } from '../intake/index.ts';
import { meanLevelDb, onsetSeconds } from '../measure/index.ts';
import { takeover } from '../testing/ear/pitches.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { TempoMap, type Part } from '../music/index.ts';
import { planPart, soundsOf, toEvents } from '../performance/index.ts';
import type { Instrument } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { HARBOUR_HALL, hallResponse } from '../rooms/index.ts';
import { ENGINE_RATE, midiToHertz } from '../units/index.ts';
import {
  DEMO_LIBRARIES,
  instrumentSfz,
  ordersOf,
  recordedFor,
  recordTake,
  takeFile,
  type TakeOrder,
} from './index.ts';

const [library] = DEMO_LIBRARIES;
const [violins] = library.instruments;
const record = (order: TakeOrder) => recordTake(violins, library.hall, order);
const take = (technique: string, more: Partial<TakeOrder> = {}) =>
  record({
    technique,
    slot: 'note',
    root: 70,
    layer: 1,
    take: 0,
    vibrato: technique === 'long',
    interval: 0,
    ...more,
  });
const allOrders = violins.techniques.flatMap(ordersOf);
const centroid = (sound: Float32Array) => {
  const spectrum = magnitudeSpectrum(sound.subarray(20000, 20000 + 16384));
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
    const a = take('staccato', { root: 66 });
    const b = take('staccato', { root: 66 });
    for (const [id, { left }] of a) {
      expect(b.get(id)?.left).toEqual(left);
      expect(Math.max(...left.map(Math.abs))).toBeLessThan(0.98);
    }
  });
  it('reaches near microphones first and far ones last, by the distance', () => {
    const onsets = [...take('pizzicato', { root: 73, layer: 0 })].map(
      ([id, { left, right }]) => [id, onsetSeconds([left, right], ENGINE_RATE)] as const,
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
    const release = take('long', { slot: 'release', root: 73, layer: 0, vibrato: false });
    const decay = (id: string) => {
      const { left, right } = release.get(id) ?? { left: new Float32Array(), right: new Float32Array() };
      return (
        meanLevelDb([left, right], 0.25 * ENGINE_RATE, 0.4 * ENGINE_RATE) -
        meanLevelDb([left, right], 0, 0.1 * ENGINE_RATE)
      );
    };
    expect(decay('far')).toBeGreaterThan(decay('close'));
    expect(decay('close')).toBeLessThan(-9);
  });
});

/** An instrument's SFZ read back, with facts as if every take had been recorded. */
function readBack(instrument: (typeof library.instruments)[number], hall: (typeof library)['hall']) {
  const file = readSfz('v.sfz', () => instrumentSfz(instrument, hall));
  const facts = new Map<string, SampleFacts>();
  for (const technique of instrument.techniques)
    for (const order of ordersOf(technique))
      for (const mic of hall.mics)
        facts.set(takeFile(recordedFor(technique, order), mic.id), {
          frames: 2_000_000,
          rate: 48_000,
          loops: [],
        });
  const { found, unsupported } = foundInSfz(file, facts, instrument.name);
  return { ...assemble(found, guessMeanings(found))[0], unsupported };
}

describe('every demo instrument', () => {
  it('is described by an SFZ of which nothing is left out, technique by technique', () => {
    for (const { hall, instruments } of DEMO_LIBRARIES)
      for (const instrument of instruments) {
        const made = readBack(instrument, hall);
        expect(made.unsupported, instrument.name).toEqual([]);
        expect(made.positions.map((p) => p.id).sort(), instrument.name).toEqual(
          hall.mics.map((mic) => mic.id).sort(),
        );
        expect(made.articulations, instrument.name).toHaveLength(instrument.techniques.length);
        for (const { id, name, zones } of made.articulations) {
          const plan = instrument.techniques.find((one) => (one.label ?? one.id) === name);
          if (name !== 'long ah') expect(id, instrument.name).toBe(plan?.id);
          // Every zone was recorded from all positions at once.
          for (const zone of zones)
            expect(Object.keys(zone.samples), `${instrument.name} ${name}`).toHaveLength(hall.mics.length);
        }
      }
  });
  it('covers its range without a hole in its held notes', () => {
    for (const { hall, instruments } of DEMO_LIBRARIES)
      for (const instrument of instruments) {
        const first = readBack(instrument, hall).articulations.find((a) =>
          ['long', 'hit', 'ah'].includes(a.id),
        );
        const notes = first?.zones.filter((zone) => zone.role === 'attack') ?? [];
        const reach = instrument.techniques.find((one) => one.id === 'long' || one.id === 'hit')?.notes
          ?.reach;
        for (let key = instrument.low; key <= instrument.high && reach === undefined; key++)
          expect(
            notes.some((zone) => zone.keyLow <= key && zone.keyHigh >= key),
            `${instrument.name} ${key}`,
          ).toBe(true);
      }
  });
  it('records moves of many intervals both ways, slides, new bows and runs', () => {
    const moves = (name: string) =>
      new Set(
        readBack(violins, library.hall)
          .articulations.find((a) => a.id === name)
          ?.zones.filter((zone) => zone.role === 'transition' && zone.keyLow <= 74 && zone.keyHigh >= 74)
          .map((zone) => zone.interval),
      );
    expect([...moves('connected')].sort((a = 0, b = 0) => a - b)).toEqual([
      -12, -7, -5, -4, -3, -2, -1, 1, 2, 3, 4, 5, 7, 12,
    ]);
    expect(moves('bow change')).toEqual(new Set([0]));
    expect(moves('slide').size).toBe(6);
    expect(moves('runs').size).toBe(4);
  });
});

describe('a planned part, bounced', () => {
  const wanted = (o: TakeOrder) => {
    if (o.slot === 'move')
      return o.technique === 'connected' && o.root === 73 && [2, -1].includes(o.interval);
    if (o.technique === 'long') return [64, 70, 66, 73].includes(o.root);
    return o.technique === 'staccato' && [66, 73].includes(o.root);
  };
  const audio = new Map<string, SampleAudio>();
  for (const order of allOrders.filter(wanted))
    for (const [position, { left, right }] of record(order)) {
      const data = new Int16Array(left.length * 2);
      for (let i = 0; i < left.length; i++)
        [data[2 * i], data[2 * i + 1]] = [Math.round(left[i] * 32767), Math.round(right[i] * 32767)];
      audio.set(takeFile(order, position), { data, channels: 2, frames: left.length, rate: ENGINE_RATE });
    }
  const file = readSfz('v.sfz', () => instrumentSfz(violins, library.hall));
  const regions = file.regions.filter((region) => audio.has(region.opcodes.get('sample')?.value ?? ''));
  const { found } = foundInSfz(
    { ...file, regions },
    new Map([...audio].map(([path, { frames, rate }]) => [path, { frames, rate, loops: [] }])),
    'Violins',
  );
  const [read] = assemble(found, guessMeanings(found));
  const instrument: Instrument = {
    ...read,
    id: 'violins',
    family: 'strings',
    kind: 'section',
    players: 10,
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
  it('lands connected notes on the beat, as far as several positions in a hall let it be told', () => {
    const mono = left.map((v, i) => v + right[i]);
    for (const [beat, from, to] of [
      [2.5, 70, 72],
      [4, 72, 71],
    ]) {
      const heard = takeover(mono, midiToHertz(from), midiToHertz(to), beat, { before: 0.6, after: 0.8 });
      expect(Math.abs((heard.at ?? 9) - beat)).toBeLessThan(0.015);
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
