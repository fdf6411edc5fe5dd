import { beforeEach, describe, expect, it, vi } from 'vitest';
import { localStorageFake } from '../../../testing/browser.ts';

/** As the page has it after it was opened anew. */
async function opened() {
  vi.resetModules();
  const { laneHeight, setLaneHeight, useLaneHeights } = await import('./lane-heights.ts');
  return {
    set: setLaneHeight,
    of: (lane: 'velocity' | 'tempo' | `controller ${number}`) => laneHeight(useLaneHeights.getState(), lane),
  };
}
beforeEach(() => localStorageFake.clear());

describe('the height of a lane', () => {
  it('is the usual one until it is set, each by itself, and is there again after a reload', async () => {
    const first = await opened();
    expect([first.of('velocity'), first.of('controller 1'), first.of('tempo')]).toEqual([40, 58, 58]);
    first.set('controller 1', 120.4);
    first.set('velocity', 64);
    const again = await opened();
    expect([again.of('velocity'), again.of('controller 1'), again.of('controller 21')]).toEqual([
      64, 120, 58,
    ]);
    again.set('controller 1', undefined);
    expect((await opened()).of('controller 1')).toBe(58);
  });
  it('stays within what can be drawn in', async () => {
    const { set, of } = await opened();
    set('tempo', -5);
    expect(of('tempo')).toBe(28);
    set('tempo', 5000);
    expect(of('tempo')).toBe(260);
  });
  it.each(['{', '[]', 'null', '{"tempo":"high"}', '{"tempo":1e9}', '{"tempo":-1}', '{"tempo":30.5}'])(
    'is the usual one where %s was kept',
    async (text) => {
      localStorageFake.setItem('farlo-lane-heights', text);
      expect((await opened()).of('tempo')).toBe(58);
    },
  );
});
