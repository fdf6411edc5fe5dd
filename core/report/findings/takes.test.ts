import { describe, expect, it } from 'vitest';
import { reportOf } from '../../testing/reports.ts';
import type { OnsetFigure, SameTake } from '../figures.ts';
import { findingsOf } from './index.ts';

const found = (articulation: string, more: { onsets?: OnsetFigure[]; sameTakes?: SameTake[] }) =>
  findingsOf({ name: 'Own', kind: 'section', reports: [reportOf(articulation, more)] }, []);

describe('short notes', () => {
  /** Takes of one key that speak after so many seconds. */
  const onsets = (...seconds: number[]): OnsetFigure[] =>
    seconds.map((one, take) => ({ key: 60, layer: 0, take, seconds: one, riseSeconds: 0.01 }));
  const told = (...seconds: number[]) => found('staccato', { onsets: onsets(...seconds) })[0];
  it('that speak 35 ms after the key are late', () => {
    const late = told(0.035, 0.035, 0.035);
    expect(late).toMatchObject({
      code: 'late-short',
      weight: 'fault',
      severity: 1,
      articulation: 'staccato',
      position: null,
      figure: '35 ± 0 ms',
      hear: { articulation: 'staccato', shape: 'repeat', keys: [60] },
    });
    expect(late.sentence).toBe(
      // Played by hand the fastest even line is a note every 55 ms: sixteenths at 240 and more.
      'staccato speaks 35 ms after the key. Played by hand, lines faster than sixteenths at 240 will limp.',
    );
    expect(told(0.034, 0.034, 0.034)).toBeUndefined();
  });
  it('whose takes differ by 20 ms limp', () => {
    const uneven = told(0.01, 0.01, 0.0301);
    expect(uneven).toMatchObject({ figure: '10 ± 10 ms' });
    // An unevenness of a fifth of the note value: a note every 100 ms.
    expect(uneven.sentence).toBe(
      'staccato speaks unevenly: takes of C4 differ by 20 ms. Played by hand, lines faster than sixteenths at 149 will limp.',
    );
    expect(uneven.severity).toBeCloseTo(1, 1);
    expect(told(0.01, 0.01, 0.029)).toBeUndefined();
  });
  it('that are late and uneven are told so in one sentence, as bad as the worse of both', () => {
    const both = told(0.04, 0.04, 0.08);
    expect(both.severity).toBeCloseTo(2, 9);
    expect(both.sentence).toContain('speaks 40 ms after the key, and takes of C4 differ by 40 ms.');
    expect(told(0.14, 0.14, 0.162).severity).toBeCloseTo(4, 9);
  });
  it('alone are meant: a held note may come as it likes', () => {
    expect(found('long', { onsets: onsets(0.2, 0.3, 0.4) })).toEqual([]);
  });
});

describe('takes that are none of their own', () => {
  const same = (
    kind: SameTake['kind'],
    key: number,
    take: number,
    more: Partial<SameTake> = {},
  ): SameTake => ({
    kind,
    key,
    layer: 0,
    take,
    otherKey: kind === 'repeated' ? key : key + 4,
    otherTake: 0,
    ...more,
  });
  it('are told with what they repeat, and on how many roots', () => {
    const [one, ...more] = found('staccato', {
      sameTakes: [same('repeated', 60, 2), same('repeated', 64, 1)],
    });
    expect(more).toEqual([]);
    expect(one).toMatchObject({
      code: 'repeated-take',
      weight: 'fault',
      severity: 1.2,
      figure: '1 of 3 takes on 2 roots',
      hear: { articulation: 'staccato', shape: 'repeat', keys: [60] },
    });
    expect(one.sentence).toBe(
      'staccato: take 3 of C4 is take 1 again, as on 2 roots. A row of the same note turns mechanical sooner than 3 takes promise.',
    );
    const [alone] = found('staccato', { sameTakes: [same('repeated', 60, 2)] });
    expect(alone.figure).toBe('1 of 3 takes on 1 root');
    expect(alone.sentence).toContain('is take 1 again. A row');
  });
  it('are counted note by note: never more than a note has', () => {
    const list = [0, 1].flatMap((layer) => [
      same('repeated', 60, 1, { layer }),
      same('repeated', 60, 2, { layer }),
    ]);
    expect(found('staccato', { sameTakes: list })[0].figure).toBe('2 of 3 takes on 1 root');
  });
  it('are told apart where they are borrowed from another key', () => {
    const list = found('staccato', {
      sameTakes: [same('borrowed', 60, 1), same('borrowed', 64, 1), same('repeated', 72, 2)],
    });
    expect(list.map(({ code, figure }) => [code, figure])).toEqual([
      ['borrowed-take', '1 of 3 takes on 2 roots'],
      ['repeated-take', '1 of 3 takes on 1 root'],
    ]);
    expect(list[0].sentence).toBe(
      'staccato: take 2 of C4 is borrowed from E4, moved in pitch. Rows change colour from note to note.',
    );
  });
});
