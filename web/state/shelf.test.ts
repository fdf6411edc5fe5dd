import { openPage, shown } from '../testing/open-page.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { naturalId } from '#api/index.ts';
import { undo } from './documents.ts';

const followed: Map<string, ReadonlySet<string>>[] = [];
vi.mock('../sound/instruments.ts', () => ({
  followSwitches: (off: Map<string, ReadonlySet<string>>) => followed.push(off),
}));
const { changeMark, followShelf, levelsText, marksOf, offOf, readLevels, switchArticulation } =
  await import('./shelf.ts');

let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({ shelf: [{ id: 'shelf', name: 'Shelf' }] });
  followed.length = 0;
});
afterEach(() => page.close());

describe('the studio’s word on an instrument', () => {
  it('is begun by its first word, the same record for everybody who says one', () => {
    changeMark('violins', 'Star', { starred: true });
    expect(shown('shelfMark')).toEqual([
      {
        id: naturalId('shelfMark', 'shelf', 'violins'),
        instrumentId: 'violins',
        starred: true,
        verdict: '',
        note: '',
        off: '',
        replaces: '',
      },
    ]);
    changeMark('violins', 'Write', { note: 'warm' });
    expect(shown('shelfMark')).toMatchObject([{ starred: true, note: 'warm' }]);
    expect(marksOf(shown('shelfMark')).get('violins')?.note).toBe('warm');
    undo();
    undo();
    expect(shown('shelfMark')).toEqual([]);
  });
  it('switches articulations off and on, and what is loaded follows', () => {
    followShelf();
    switchArticulation('violins', 'tremolo', false);
    switchArticulation('violins', 'long', false);
    expect([...offOf(shown('shelfMark')[0])]).toEqual(['tremolo', 'long']);
    expect([...(followed.at(-1)?.get('violins') ?? [])]).toEqual(['tremolo', 'long']);
    switchArticulation('violins', 'tremolo', true);
    expect(shown('shelfMark')[0].off).toBe('long');
    const { length } = followed;
    page.server.put('gap', { id: 'g', version: 1 });
    changeMark('violins', 'x', {});
    expect(followed).toHaveLength(length);
    expect([...offOf(undefined)]).toEqual([]);
  });
});

describe('levels of a saved sound', () => {
  it('are rounded to tenths, and read back', () => {
    expect(levelsText({ close: -4.26, 'far left': 0 })).toBe('close:-4.3|far left:0');
    expect(readLevels('a:b:-3|x:|:5|nothing')).toEqual({ 'a:b': -3, x: 0 });
  });
});
