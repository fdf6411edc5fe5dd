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
  it('is as loud as its loudest position', () => {
    const own = like('Own');
    const turned = {
      ...own,
      reports: own.reports.map((one) =>
        one.articulation === 'tremolo'
          ? reportOf('tremolo', {
              positions: [
                figuresOf('close', { loudnessLufs: -40 }),
                figuresOf('far', { loudnessLufs: -24 }),
                figuresOf('outer', { loudnessLufs: null }),
              ],
            })
          : one,
      ),
    };
    expect(found(turned, 'out-of-level', three)[0].figure).toBe('+4.0 LU');
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
