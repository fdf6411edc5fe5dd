import { describe, expect, it, vi } from 'vitest';
import type { Instrument } from '#core/catalogue/index.ts';
import { PHRASES, phraseText, writePhrase } from '#core/listen/index.ts';
import { sineInstrument } from '#core/testing/fixtures.ts';
import type { Contender } from './contenders.ts';

// The view's state remembers how it was left.
vi.stubGlobal('localStorage', { getItem: () => null, setItem: () => undefined });
const { rowsOf, techniqueOf } = await import('./rows.ts');

const { instrument } = sineInstrument();
const narrowed = (low: number, high: number): Instrument => ({
  ...instrument,
  articulations: instrument.articulations.map((one) => ({
    ...one,
    zones: one.zones.map((zone) => ({ ...zone, keyLow: low, keyHigh: high })),
  })),
});
const contender = (more: Partial<Contender> = {}): Contender => ({
  id: 'c',
  letter: 'A',
  instrumentId: 'i',
  articulation: '',
  summary: undefined,
  library: undefined,
  instrument,
  trouble: undefined,
  ...more,
});

describe('rows of a line-up', () => {
  it('give a whole instrument the technique that suits each phrase, and keep a technique to what it can play', () => {
    expect(techniqueOf(contender(), 'short')?.id).toBe('staccato');
    expect(techniqueOf(contender(), 'connected')?.id).toBe('connected');
    expect(techniqueOf(contender({ articulation: 'staccato' }), 'long')).toBeUndefined();
    expect(techniqueOf(contender({ articulation: 'long' }), 'connected')?.id).toBe('long');
    const shorts = rowsOf([contender({ articulation: 'staccato' })], [], 108).map((row) => row.id);
    expect(shorts).toEqual(PHRASES.filter((one) => one.suits === 'short').map((one) => one.id));
  });
  it('write one phrase for all, in the range they share', () => {
    const pair = [
      contender({ instrument: narrowed(40, 80) }),
      contender({ id: 'd', instrument: narrowed(60, 100) }),
    ];
    const walk = rowsOf(pair, [], 108).find((row) => row.id === 'walk');
    const [a, b] = walk?.cells ?? [];
    expect(a?.phrase.part.notes.map((note) => note.key)).toEqual(
      b?.phrase.part.notes.map((note) => note.key),
    );
    expect(Math.min(...(a?.phrase.part.notes ?? []).map((note) => note.key))).toBe(60);
    const apart = [
      contender({ instrument: narrowed(40, 50) }),
      contender({ id: 'd', instrument: narrowed(60, 70) }),
    ];
    const [low, high] = rowsOf(apart, [], 108).find((row) => row.id === 'walk')?.cells ?? [];
    expect(low?.phrase.part.notes[0].key).toBe(40);
    expect(high?.phrase.part.notes[0].key).toBe(60);
  });
  it('wait for what is not known yet, and show own phrases in proportion to the tempo', () => {
    const rows = rowsOf([contender({ instrument: undefined })], [], 108);
    expect(rows).toHaveLength(PHRASES.length);
    expect(rows.every((row) => row.cells[0] === undefined)).toBe(true);
    const own = {
      id: 'own',
      name: 'The ferry',
      suits: 'long' as const,
      bpm: 90,
      written: phraseText(writePhrase('single', { low: 60, high: 72 }, 90)),
    };
    const [row] = rowsOf([contender()], [own], 54).filter((one) => one.own);
    expect(row.name).toBe('The ferry');
    expect(row.cells[0]?.bpm).toBe(45);
    expect(rowsOf([contender()], [{ ...own, written: 'broken' }], 54).find((one) => one.own)?.cells).toEqual([
      undefined,
    ]);
  });
  it('name equal orders equally, so that nothing is rendered twice', () => {
    const names = (bpm: number) => rowsOf([contender()], [], bpm).map((row) => row.cells[0]?.name);
    expect(names(108)).toEqual(names(108));
    expect(new Set(names(108)).size).toBe(names(108).length);
    expect(names(108)[0]).not.toBe(names(120)[0]);
  });
});
