import { describe, expect, it } from 'vitest';
import { figuresOf, keyLevel, KEYS, reportOf } from '../../testing/reports.ts';
import type { ArticulationReport } from '../figures.ts';
import { findingsOf, type ReportedInstrument } from './index.ts';

const instrument = (
  name: string,
  reports: readonly ArticulationReport[],
  kind: ReportedInstrument['kind'] = 'section',
): ReportedInstrument => ({ name, kind, reports });
const found = (own: ReportedInstrument, code: string, siblings: readonly ReportedInstrument[] = []) =>
  findingsOf(own, siblings).filter((one) => one.code === code);
/** A technique of a loudness, alike in all else. */
const loud = (id: string, loudnessLufs: number) =>
  reportOf(id, {
    positions: [figuresOf('close', { loudnessLufs }), figuresOf('far', { loudnessLufs: loudnessLufs - 3 })],
  });

describe('a technique among the same of other instruments', () => {
  const IDS = ['long', 'tremolo', 'muted', 'staccato'];
  const like = (name: string, changes: Record<string, number> = {}) =>
    instrument(
      name,
      IDS.map((id) => loud(id, -28 + (changes[id] ?? 0))),
    );
  const three = ['A', 'B', 'C'].map((name) => like(name));
  it('is told when it is three LU louder against its instrument than there', () => {
    const [one, ...more] = found(like('Own', { tremolo: 4 }), 'out-of-level', three);
    expect(more).toEqual([]);
    expect(one).toMatchObject({
      articulation: 'tremolo',
      figure: '+4.0 LU',
      hear: { shape: 'pair', against: 'long' },
    });
    expect(one.sentence).toContain('4.0 LU louder against the rest of the instrument than in its neighbours');
    expect(found(like('Own', { tremolo: 2.9 }), 'out-of-level', three)).toEqual([]);
    expect(found(like('Own', { tremolo: -6 }), 'out-of-level', three)).toEqual([]);
  });
  it('is let pass where these differ among themselves by as much', () => {
    const uneven = [0, 3, -3].map((by, i) => like(`${i}`, { tremolo: by }));
    expect(found(like('Own', { tremolo: 6 }), 'out-of-level', uneven)).toEqual([]);
  });
  it('is held against its own kind where there are fewer than three, or few techniques', () => {
    const own = like('Own', { tremolo: 4 });
    // Of its kind there are but two.
    expect(found(own, 'out-of-level', three.slice(0, 2))).toEqual([]);
    const kinds = instrument('Own', [...own.reports, loud('near bridge', -28)]);
    const [one] = found(kinds, 'out-of-level', three.slice(0, 2));
    expect(one.sentence).toContain('than techniques of its kind');
  });
  it('is no matter for recorded swells: how loud they are depends on where one listens', () => {
    const own = instrument('Own', [...like('Own').reports, loud('swell', -10)]);
    expect(found(own, 'out-of-level', three)).toEqual([]);
  });
});

describe('a key', () => {
  const key = (by: number, layer = 1) =>
    reportOf('long', {
      positions: [
        figuresOf('close', {
          levels: [0, 1, 2].flatMap((at) =>
            KEYS.map((one) => keyLevel(one, at, { lufs: -25 + (one === 60 && at === layer ? by : 0) })),
          ),
        }),
      ],
    });
  const told = (report: ArticulationReport, kind?: ReportedInstrument['kind']) =>
    found(instrument('Own', [report], kind), 'uneven-keys');
  it('that stands eight LU off the line through its neighbours is worth knowing', () => {
    const [one] = told(key(9));
    expect(one).toMatchObject({
      weight: 'note',
      figure: '+9.0 LU',
      hear: { shape: 'pair', keys: [58, 60, 62] },
    });
    expect(one.sentence).toContain('C4 is 9.0 LU louder than its neighbours');
    expect(told(key(-9))[0].sentence).toContain('9.0 LU softer');
    expect(told(key(7.9))).toEqual([]);
  });
  it('is looked at in the middle layer, and not across the keys of an ensemble', () => {
    expect(told(key(9, 0))).toEqual([]);
    expect(told(key(9), 'ensemble')).toEqual([]);
    expect(told(reportOf('long', { positions: [] }))).toEqual([]);
  });
});

describe('recordings in trouble', () => {
  const sample = (
    key: number,
    trouble: ArticulationReport['troubled'][number]['trouble'],
    position = 'close',
  ) => ({
    key,
    position,
    trouble,
  });
  const told = (...troubled: ReturnType<typeof sample>[]) =>
    found(instrument('Own', [reportOf('long', { troubled })]), 'trouble').map(
      ({ figure, sentence, hear }) => [figure, sentence, hear?.keys],
    );
  it('are told kind by kind with their places, four of them by name', () => {
    expect(told(sample(60, 'clipped'), sample(62, 'clipped', 'far'), sample(64, 'missing'))).toEqual([
      [
        '2 clipped',
        'long: 2 recordings are clipped: C4 (close), D4 (far). Its figures stand, but its peaks are cut off.',
        [60],
      ],
      ['1 missing', 'long: 1 recording is missing: E4 (close). No figures were taken from them.', undefined],
    ]);
    const [[, many]] = told(...[60, 61, 62, 63, 64].map((key) => sample(key, 'clipped')));
    expect(many).toContain('D#4 (close) …. Its figures');
    const [[, four]] = told(...[60, 61, 62, 63].map((key) => sample(key, 'clipped')));
    expect(four).not.toContain('…');
  });
});

describe('what has to arrive on a beat', () => {
  const told = (id: string, name: string, range: ArticulationReport['range'] = { low: 48, high: 72 }) =>
    found(instrument('Own', [reportOf(id, { name, range })]), 'no-length').map(({ sentence }) => sentence);
  it('must say how long it takes', () => {
    expect(told('swell', 'Crescendo')[0]).toContain('Crescendo does not say how many seconds');
    expect(told('roll', '')[0]).toContain('roll does not say');
    expect(told('swell', 'Crescendo 2 s')).toEqual([]);
    expect(told('fall', 'Fall')).toEqual([]);
    expect(told('long', 'Long')).toEqual([]);
    expect(told('swell', 'Crescendo', null)).toEqual([]);
  });
});

describe('a technique that the others have', () => {
  const of = (name: string, ids: readonly string[], kind?: ReportedInstrument['kind']) =>
    instrument(
      name,
      ids.map((id) => reportOf(id)),
      kind,
    );
  const told = (own: ReportedInstrument, siblings: readonly ReportedInstrument[]) =>
    found(own, 'missing-technique', siblings).map(({ figure, sentence }) => [figure, sentence]);
  const own = of('Violas', ['long']);
  it('is told to be missing, where seven in ten of them have it', () => {
    const three = [of('A', ['long', 'tremolo']), of('B', ['long', 'tremolo', 'muted']), of('C', ['tremolo'])];
    expect(told(own, three)).toEqual([
      [
        '1 missing',
        'Violas lacks tremolo, which the other sections of the library have; marks of these will be played by stand-ins.',
      ],
    ]);
    // Two of three are not seven in ten; seven of ten are.
    expect(told(own, [three[0], three[1], of('C', ['long'])])).toEqual([]);
    const ten = Array.from({ length: 10 }, (_, i) => of(`${i}`, i < 7 ? ['tremolo'] : ['long']));
    expect(told(own, ten)).toHaveLength(1);
  });
  it('is asked of its own kind, and of three at least that were measured', () => {
    const two = [of('A', ['tremolo']), of('B', ['tremolo'])];
    expect(told(own, two)).toEqual([]);
    expect(told(own, [...two, of('C', ['tremolo'], 'solo')])).toEqual([]);
    expect(told(own, [...two, of('C', [])])).toEqual([]);
    expect(told(of('Violas', ['long', 'tremolo']), [...two, of('C', ['tremolo'])])).toEqual([]);
  });
});
