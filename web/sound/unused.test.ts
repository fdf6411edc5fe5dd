import { describe, expect, it } from 'vitest';
import { Table } from '../state/tables.ts';
import { levelsText, readLevels } from '../state/shelf.ts';
import type { LoadState } from './instruments.ts';
import { unusedArticulations } from './unused.ts';

const loaded = (...ids: string[]) => ({ wanted: new Set(ids) }) as unknown as LoadState;

describe('what the open cue does not use', () => {
  it('is everything loaded that no track and no mark of its part speaks of', () => {
    const records = {
      track: Table.of('track', [
        { id: 't', instrumentId: 'violins', articulation: 'long' },
        { id: 'u', instrumentId: null, articulation: 'long' },
      ]),
      part: Table.of('part', [{ id: 'p', trackId: 't' }]),
      mark: Table.of('mark', [{ id: 'm', partId: 'p', articulation: 'staccato' }]),
    };
    expect(
      unusedArticulations(records, {
        violins: loaded('long', 'staccato', 'tremolo'),
        flute: loaded('long'),
      }),
    ).toEqual([
      { id: 'violins', articulation: 'tremolo' },
      { id: 'flute', articulation: 'long' },
    ]);
  });
  it('keeps what sounds for a word by its keymap: layers, and what stands in', () => {
    const records = {
      track: Table.of('track', [{ id: 't', instrumentId: 'violins', articulation: 'long' }]),
      part: Table.of('part', [{ id: 'p', trackId: 't' }]),
      mark: Table.of('mark', [{ id: 'm', partId: 'p', articulation: 'staccato' }]),
    };
    const soundingFor = (_track: unknown, word: string) =>
      word === 'long' ? ['long', 'near bridge'] : ['off the string'];
    const loads = { violins: loaded('long', 'near bridge', 'off the string', 'staccato') };
    expect(unusedArticulations(records, loads, soundingFor)).toEqual([
      { id: 'violins', articulation: 'staccato' },
    ]);
  });
});

describe('levels of a saved sound', () => {
  it('read back as they were written, and damage is left out', () => {
    const levels = { close: -4, 'far left': -12.5, tree: 0 };
    expect(readLevels(levelsText(levels))).toEqual(levels);
    expect(readLevels('close:x|:3|tree:-6|')).toEqual({ tree: -6 });
  });
});
