import { describe, expect, it } from 'vitest';
import { reportOf } from '../../testing/reports.ts';
import type { ArticulationReport } from '../figures.ts';
import { findingsOf, type ReportedInstrument } from './index.ts';

const instrument = (
  name: string,
  reports: readonly ArticulationReport[],
  kind: ReportedInstrument['kind'] = 'section',
): ReportedInstrument => ({ name, kind, reports });
const found = (own: ReportedInstrument, code: string, siblings: readonly ReportedInstrument[] = []) =>
  findingsOf(own, siblings).filter((one) => one.code === code);

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
