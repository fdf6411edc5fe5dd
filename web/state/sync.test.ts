import { describe, expect, it } from 'vitest';
import { mergeDelta } from './sync.ts';

const before = { id: 'n', key: 60, velocity: 80 };
const change = (after: Record<string, unknown> | null) => ({
  kind: 'note' as const,
  id: 'n',
  before,
  after: after && { ...before, ...after },
});

describe('putting an edit on top of a colleague’s', () => {
  it('keeps both where different fields were changed', () => {
    const { delta, complete } = mergeDelta(change({ velocity: 100 }), before, { ...before, key: 62 });
    expect(delta?.after).toEqual({ id: 'n', key: 62, velocity: 100 });
    expect(complete).toBe(true);
  });
  it('lets theirs stay where the same field was changed, and says so', () => {
    expect(mergeDelta(change({ key: 64 }), before, { ...before, key: 62 })).toEqual({
      delta: null,
      complete: false,
    });
  });
  it('takes equal changes as done', () => {
    expect(mergeDelta(change({ key: 62 }), before, { ...before, key: 62 })).toEqual({
      delta: null,
      complete: true,
    });
  });
  it('gives up what they removed, and does not remove what they changed', () => {
    expect(mergeDelta(change({ key: 64 }), before, null)).toEqual({ delta: null, complete: false });
    expect(mergeDelta(change(null), before, null)).toEqual({ delta: null, complete: true });
    expect(mergeDelta(change(null), before, { ...before, key: 62 })).toEqual({
      delta: null,
      complete: false,
    });
  });
});
