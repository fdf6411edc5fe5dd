import { describe, expect, it } from 'vitest';
import { figuresOf, keyLevel, reportOf } from '../../testing/reports.ts';
import type { ArticulationReport } from '../figures.ts';
import { findingsOf } from './index.ts';

const found = (report: ArticulationReport, code: string) =>
  findingsOf({ name: 'Own', kind: 'section', reports: [report] }, []).filter((one) => one.code === code);

describe('loops', () => {
  const sustain = (key: number, repeatsAfterSeconds: number, seam: number) => ({
    key,
    layer: 0,
    movementDb: 1.26,
    repeatsAfterSeconds,
    seam,
  });
  const held = (...sustains: ReturnType<typeof sustain>[]) =>
    reportOf('long', { sustains: sustains as never });
  it('that repeat faster than a fifth of a second sound frozen', () => {
    const [one, ...more] = found(
      held(sustain(60, 0.5, 1), sustain(62, 0.1, 1), sustain(64, 0.05, 1)),
      'static-loop',
    );
    expect(more).toEqual([]);
    expect(one).toMatchObject({ weight: 'fault', figure: '100 ms', severity: 2, hear: { keys: [62] } });
    expect(one.sentence).toContain('repeat every 100 ms and move by 1.3 dB');
    expect(found(held(sustain(60, 0.2, 1)), 'static-loop')).toEqual([]);
    // What has no loop repeats never.
    expect(found(held(sustain(60, 0, 0)), 'static-loop')).toEqual([]);
    expect(found(held(sustain(60, 0, 0)), 'loop-bump')).toEqual([]);
  });
  it('whose ends do not join bump; the worst is told', () => {
    const [one, ...more] = found(
      held(sustain(60, 2, 0.8), sustain(62, 1.5, 0.4), sustain(64, 3, 0.6)),
      'loop-bump',
    );
    expect(more).toEqual([]);
    expect(one).toMatchObject({ weight: 'fault', figure: 'every 1.5 s at D4', hear: { keys: [62] } });
    expect(one.severity).toBeCloseTo(1.45, 9);
    expect(found(held(sustain(60, 2, 0.85)), 'loop-bump')).toEqual([]);
  });
});

describe('triads', () => {
  it('that hold three decibels more than their notes are worth knowing, with where they gather', () => {
    const chords = [
      { key: 48, lowMidsDb: 4, presenceDb: 1 },
      { key: 55, lowMidsDb: 2, presenceDb: 3 },
      { key: 60, lowMidsDb: 2.9, presenceDb: 2.9 },
    ];
    const list = found(reportOf('long', { chords }), 'triad-growth');
    expect(list.map(({ weight, figure, hear }) => [weight, figure, hear?.keys])).toEqual([
      ['note', '+4.0 dB', [48, 52, 55]],
      ['note', '+3.0 dB', [55, 59, 62]],
    ]);
    expect(list[0].sentence).toContain('4.0 dB more in the low mids');
    expect(list[1].sentence).toContain('3.0 dB more in the presence region');
  });
});

describe('moves', () => {
  const moves = (late: Record<number, number>, intervals = [1, 2, 3, 4, 5, 6, 7, 8]) =>
    reportOf('connected', {
      moves: [...intervals.map((one) => -one).reverse(), ...intervals].map((interval) => ({
        interval,
        seconds: 0.1 + (late[interval] ?? 0),
        count: 1,
      })),
    });
  it('of three intervals side by side that land late are told with how much later', () => {
    const [one, ...more] = found(moves({ 5: 0.08, 6: 0.09, 7: 0.1 }), 'slow-move');
    expect(more).toEqual([]);
    expect(one).toMatchObject({ figure: '+90 ms', hear: { shape: 'move', keys: [60, 65] } });
    expect(one.sentence).toContain('moves upwards of 5 to 7 semitones land 90 ms later');
    const [down] = found(moves({ [-6]: 0.08, [-7]: 0.08, [-8]: 0.08 }), 'slow-move');
    expect(down.sentence).toContain('moves downwards of 6 to 8 semitones');
  });
  it('are let pass where fewer are late, they do not lie side by side, or it is little', () => {
    expect(found(moves({ 5: 0.1, 6: 0.1 }), 'slow-move')).toEqual([]);
    expect(found(moves({ 3: 0.1, 5: 0.1, 7: 0.1 }), 'slow-move')).toEqual([]);
    expect(found(moves({ 5: 0.059, 6: 0.059, 7: 0.059 }), 'slow-move')).toEqual([]);
    expect(found(moves({ [-1]: 0.1, 1: 0.1, 2: 0.1 }), 'slow-move')).toEqual([]);
    expect(found(reportOf('connected'), 'slow-move')).toEqual([]);
  });
});

describe('something that rings along', () => {
  // The second partial of C4, the third of F3, the fourth of C3, the fifth of G♯2.
  const HERTZ = 523.25;
  const NOTES = [40, 44, 48, 53, 56, 60, 64, 67, 72, 76];
  const hz = (key: number) => 440 * 2 ** ((key - 69) / 12);
  /** Notes whose partials fall evenly, but for one frequency at which they stand out. */
  const partials = (excess: number) => [
    NOTES.map((key) =>
      Array.from({ length: 12 }, (_, n) => {
        const hertz = hz(key) * (n + 1);
        const at = Math.abs(1200 * Math.log2(hertz / HERTZ)) < 30 ? excess : 0;
        return { hertz, levelDb: -20 - 6 * Math.log2(n + 1) + at };
      }),
    ),
  ];
  const with1 = (excess: number, boom: number, id = 'long') =>
    reportOf(id, {
      partials: partials(excess) as never,
      positions: [
        figuresOf('close', {
          levels: NOTES.map((key) => keyLevel(key, 0, { lufs: -25 + (key === 60 ? boom : 0) })),
        }),
      ],
    });
  it('is told where its note is louder as well', () => {
    const list = found(with1(18, 9), 'resonance');
    expect(list).toHaveLength(1);
    expect(list[0].sentence).toContain('523 Hz (C5)');
    expect(list[0].hear?.keys).toEqual([70, 72, 74]);
  });
  it('is told where the notes on both sides are there to hold it against, not at the ends of a range', () => {
    const at = (keys: readonly number[]) => {
      const own = with1(18, 9);
      return found(
        {
          ...own,
          positions: own.positions.map((one) => ({
            ...one,
            levels: one.levels.filter(({ key }) => keys.includes(key)),
          })),
        },
        'resonance',
      );
    };
    const [below, above] = [NOTES.filter((key) => key <= 60), NOTES.filter((key) => key >= 60)];
    expect([at(below), at(above), at([60]), at([])]).toEqual([[], [], [], []]);
    expect(at([...below.slice(-2), ...above.slice(1, 2)])).toHaveLength(1);
  });
  it('is the instrument’s colour where its note is as loud as the others, and nothing where no partial stands out', () => {
    expect(found(with1(18, 0), 'resonance')).toEqual([]);
    expect(found(with1(0, 9), 'resonance')).toEqual([]);
    expect(found(with1(18, 9, 'staccato'), 'resonance')).toEqual([]);
  });
});
