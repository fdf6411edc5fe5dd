import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { StreamEvent } from '#api/index.ts';
import {
  chosenByOthers,
  hearPointing,
  notesOfOthers,
  peopleAt,
  tellPointing,
  TOUCHED_MS,
  usePointing,
} from './pointing.ts';
import { useSession } from './session.ts';
import { TAB } from './tab.ts';

const pointing = (
  name: string,
  more: Partial<Extract<StreamEvent, { kind: 'pointing' }>> = {},
): StreamEvent => ({
  kind: 'pointing',
  documentId: 'cue',
  userId: name,
  name,
  tab: `tab of ${name}`,
  trackId: 'violins',
  noteIds: ['n1', 'n2'],
  ...more,
});
const patch = (
  userId: string,
  ids: readonly string[],
  op: 'add' | 'update' | 'remove' = 'update',
): StreamEvent => ({
  kind: 'patch',
  documentId: 'cue',
  revision: 5,
  patch: {
    patchId: 'p',
    revision: 5,
    userId,
    author: 'Tam Oriel',
    label: 'Move notes',
    changes: ids.map((id) => ({ kind: 'note', id, op, version: 2 })),
  },
});
const sent: { path: string; body: unknown }[] = [];
const named = () => Object.fromEntries(notesOfOthers(usePointing.getState(), 'cue'));

beforeEach(() => {
  vi.useFakeTimers();
  sent.length = 0;
  vi.stubGlobal('fetch', (path: string, { body }: { body?: string } = {}) => {
    sent.push({ path, body: body === undefined ? undefined : JSON.parse(body) });
    return Promise.resolve(new Response(null, { status: 204 }));
  });
  usePointing.setState({ pointed: new Map(), touched: new Map() });
  useSession.setState({ info: { user: { id: 'me', name: 'Ilse Marrow', email: '' } } as never });
});
afterEach(() => {
  tellPointing(undefined);
  vi.runOnlyPendingTimers();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

describe('what others have chosen', () => {
  it('is shown by track and note, in the cue it is in, and follows them', () => {
    hearPointing(pointing('Tam Oriel'));
    hearPointing(pointing('Wren Sable', { trackId: 'bells', noteIds: [] }));
    hearPointing(pointing('Elsewhere', { documentId: 'other' }));
    const state = usePointing.getState();
    expect(peopleAt(state, 'cue', 'violins')).toEqual(['Tam Oriel']);
    expect(peopleAt(state, 'cue', 'bells')).toEqual(['Wren Sable']);
    expect(named()).toEqual({ n1: 'Tam Oriel', n2: 'Tam Oriel' });
    expect(chosenByOthers(state, 'cue', 'violins')).toBe('Tam Oriel: 2 notes');
    expect(chosenByOthers(state, 'cue', 'bells')).toBe('');
    hearPointing(pointing('Tam Oriel', { trackId: 'bells', noteIds: ['n9'] }));
    expect(named()).toEqual({ n9: 'Tam Oriel' });
    expect(peopleAt(usePointing.getState(), 'cue', 'violins')).toEqual([]);
  });
  it('is not one’s own, in this page or another', () => {
    hearPointing(pointing('x', { tab: TAB }));
    hearPointing(pointing('x', { userId: 'me' }));
    expect(usePointing.getState().pointed.size).toBe(0);
  });
  it('goes when they go, or are not heard of any more', () => {
    hearPointing(pointing('Tam Oriel'), 0);
    hearPointing({ kind: 'here', here: [{ userId: 'Tam Oriel', name: 'Tam Oriel' }] });
    expect(usePointing.getState().pointed.size).toBe(1);
    hearPointing({ kind: 'here', here: [] });
    expect(usePointing.getState().pointed.size).toBe(0);
    hearPointing(pointing('Tam Oriel'), 0);
    hearPointing(pointing('Wren Sable'), 70_000);
    expect([...usePointing.getState().pointed.values()].map(({ name }) => name)).toEqual(['Wren Sable']);
  });
});

describe('notes that others have just changed', () => {
  it('carry their name for a moment; removed ones and one’s own do not', () => {
    hearPointing(patch('tam', ['a', 'b']));
    hearPointing(patch('tam', ['gone'], 'remove'));
    hearPointing(patch('me', ['mine']));
    expect(named()).toEqual({ a: 'Tam Oriel', b: 'Tam Oriel' });
    vi.advanceTimersByTime(TOUCHED_MS + 10);
    expect(named()).toEqual({});
  });
});

describe('one’s own selection', () => {
  it('is told once it rests, again every twenty seconds, and to whoever comes', async () => {
    tellPointing({ cueId: 'cue', trackId: 'violins', noteIds: ['n1'] });
    tellPointing({ cueId: 'cue', trackId: 'violins', noteIds: ['n1', 'n2'] });
    await vi.advanceTimersByTimeAsync(300);
    expect(sent).toEqual([
      {
        path: '/api/documents/cue/cue/pointing',
        body: { tab: TAB, trackId: 'violins', noteIds: ['n1', 'n2'] },
      },
    ]);
    hearPointing({ kind: 'here', here: [] });
    await vi.advanceTimersByTimeAsync(300);
    expect(sent).toHaveLength(2);
    await vi.advanceTimersByTimeAsync(20_000);
    expect(sent).toHaveLength(3);
  });
  it('of very many notes is told in part, and taken back when the cue is left', async () => {
    const many = Array.from({ length: 500 }, (_, i) => `n${i}`);
    tellPointing({ cueId: 'cue', trackId: 'violins', noteIds: many });
    await vi.advanceTimersByTimeAsync(300);
    tellPointing(undefined);
    await vi.advanceTimersByTimeAsync(50_000);
    const bodies = sent.map(({ body }) => body as { trackId: string | null; noteIds: string[] });
    expect(bodies.map(({ trackId, noteIds }) => [trackId, noteIds.length])).toEqual([
      ['violins', 200],
      [null, 0],
    ]);
  });
});
