import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import { openPage, shown } from '../../../testing/open-page.ts';
import { useEditor } from './editor-state.ts';
import { articulationOf, typeMark } from './typed-mark.ts';

const asked = vi.hoisted(() => ({ text: undefined as string | undefined, told: [] as string[] }));
vi.mock('../../../ui/ask.tsx', () => ({ askName: () => Promise.resolve(asked.text) }));
vi.mock('sonner', () => ({ toast: (text: string) => asked.told.push(text) }));

let page: Awaited<ReturnType<typeof openPage>>;
beforeEach(async () => {
  page = await openPage({
    track: [{ id: 't', place: 1 }],
    part: [{ id: 'p', trackId: 't' }],
    note: [
      { id: 'a', partId: 'p', startTick: 0, endTick: 500, key: 60, velocity: 80 },
      { id: 'b', partId: 'p', startTick: 960, endTick: 1800, key: 60, velocity: 80 },
    ],
  });
  useEditor.setState({ selection: new Set(['a', 'b']), markId: undefined });
  asked.told = [];
});
afterEach(() => page.close());

describe('a typed mark', () => {
  it('is found by its name, as it is written, or by a word of labels', () => {
    expect(
      ['staccato', ' Pizzicato ', 'pizz.', 'con sord.', 'spicc', 'nothing such'].map(articulationOf),
    ).toEqual(['staccato', 'pizzicato', 'pizzicato', 'muted', expect.any(String) as string, undefined]);
  });
  it('is given to the chosen notes from the first to the last', async () => {
    asked.text = 'pizz';
    await typeMark('t');
    expect(shown('mark')).toMatchObject([{ startTick: 0, endTick: 1800, articulation: 'pizzicato' }]);
  });
  it('that is none is told, and nothing is marked; without notes nothing is asked', async () => {
    asked.text = 'nothing such';
    await typeMark('t');
    expect(asked.told[0]).toContain('“nothing such”');
    asked.text = undefined;
    await typeMark('t');
    useEditor.setState({ selection: new Set() });
    asked.text = 'pizz';
    await typeMark('t');
    expect(shown('mark')).toEqual([]);
  });
});
