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
