import { describe, expect, it } from 'vitest';
import type { Records } from '../state/diff.ts';
import { levelsText, readLevels } from '../state/shelf.ts';
import type { LoadState } from './instruments.ts';
import { unusedArticulations } from './unused.ts';

const loaded = (...ids: string[]) => ({ wanted: new Set(ids) }) as unknown as LoadState;

describe('what the open cue does not use', () => {
  it('is everything loaded that no track and no mark of its part speaks of', () => {
    const records = {
      track: {
        t: { id: 't', instrumentId: 'violins', articulation: 'long' },
        u: { id: 'u', instrumentId: null, articulation: 'long' },
      },
      part: { p: { id: 'p', trackId: 't' } },
      mark: { m: { id: 'm', partId: 'p', articulation: 'staccato' } },
    } as unknown as Records;
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
});

describe('levels of a saved sound', () => {
  it('read back as they were written, and damage is left out', () => {
    const levels = { close: -4, 'far left': -12.5, tree: 0 };
    expect(readLevels(levelsText(levels))).toEqual(levels);
    expect(readLevels('close:x|:3|tree:-6|')).toEqual({ tree: -6 });
  });
});
