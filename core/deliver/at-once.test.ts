import { describe, expect, it } from 'vitest';
import { startEvent } from '../testing/fixtures.ts';
import { mostAtOnce } from './index.ts';

describe('the most that sounds at once', () => {
  const start = (frame: number, sound: number, track = 0) => startEvent({ frame, sound, track });
  const stop = (frame: number, sound: number, track = 0) =>
    ({ kind: 'stop', frame, sound, track, fadeSeconds: 0.1, release: true }) as const;
  it('is counted from start to end, track by track', () => {
    expect(mostAtOnce([])).toBe(0);
    const one = [start(0, 1), stop(10, 1), start(10, 2), start(20, 3), stop(30, 2), stop(40, 3)];
    expect(mostAtOnce(one)).toBe(2);
    // The same numbers on another track are other sounds.
    expect(mostAtOnce([start(0, 1), start(0, 1, 1), start(5, 2, 1), stop(6, 1, 1)])).toBe(3);
    // One that begins anew is one; controllers are none.
    expect(
      mostAtOnce([
        start(0, 1),
        start(1, 1),
        { kind: 'control', frame: 2, track: 0, controller: 1, value: 3 },
      ]),
    ).toBe(1);
  });
});
