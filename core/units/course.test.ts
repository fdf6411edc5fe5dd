import { describe, expect, it } from 'vitest';
import { clamp, counted, ENGINE_RATE, roundEnd, roundOf, secondsAt, secondsToFrames } from './index.ts';

describe('the way through a cue', () => {
  // A second that leads in, then a loop of two seconds.
  const course = { startSeconds: 4, leadFrames: ENGINE_RATE, loopFrames: 2 * ENGINE_RATE };
  const plain = { ...course, loopFrames: null };
  const at = (seconds: number) => seconds * ENGINE_RATE;
  it('goes on and on without a loop', () => {
    expect([0, 1, 100].map((seconds) => roundOf(plain, at(seconds)))).toEqual([0, 0, 0]);
    expect([0, 1, 100].map((seconds) => secondsAt(plain, at(seconds)))).toEqual([4, 5, 104]);
    expect(roundEnd(plain, at(3))).toBe(Infinity);
  });
  it('goes round a loop; what leads in belongs to the first round', () => {
    expect([0, 0.5, 1, 2.9, 3, 4.9, 5].map((seconds) => roundOf(course, at(seconds)))).toEqual(
      [0, 0, 0, 0, 2, 2, 4].map(at),
    );
    expect([0, 1, 2.5, 3, 3.5, 5].map((seconds) => secondsAt(course, at(seconds)))).toEqual([
      4, 5, 6.5, 5, 5.5, 5,
    ]);
  });
  it('knows where its rounds end', () => {
    expect([0, 1, 2.9, 3, 5].map((seconds) => roundEnd(course, at(seconds)))).toEqual(
      [3, 3, 3, 5, 7].map(at),
    );
  });
});

describe('small figures', () => {
  it('are held within bounds, and what is no number at the lower', () => {
    expect([-2, -1, 0, 3, 4, NaN, Infinity].map((value) => clamp(value, -1, 3))).toEqual([
      -1, -1, 0, 3, 3, -1, 3,
    ]);
  });
  it('are counted in words', () => {
    expect([counted(1, 'note'), counted(0, 'note'), counted(2, 'note')]).toEqual([
      '1 note',
      '0 notes',
      '2 notes',
    ]);
    expect(counted(3, 'entry', 'entries')).toBe('3 entries');
  });
  it('of seconds become the nearest frames', () => {
    expect([secondsToFrames(1), secondsToFrames(0.5, 44_100), secondsToFrames(1.4 / 48_000)]).toEqual([
      48_000, 22_050, 1,
    ]);
  });
});
