import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { MetreMap, TempoMap } from '../music/index.ts';
import { clicksBetween } from './clicks.ts';
import { secondsAt, type Course } from '../units/index.ts';

const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
const metre = new MetreMap([{ tick: 0, numerator: 3, denominator: 4 }]);
const RATE = 48_000;
const plain: Course = { startSeconds: 0, leadFrames: 0, loopFrames: null };

describe('the course of a performance', () => {
  it('goes on through the cue', () => {
    expect([0, RATE, 90 * RATE].map((frame) => secondsAt({ ...plain, startSeconds: 5 }, frame))).toEqual([
      5, 6, 95,
    ]);
  });
  it('goes round a loop, after what leads in', () => {
    const loop = { startSeconds: 3, leadFrames: RATE, loopFrames: 2 * RATE };
    expect([0, 1, 2, 3, 4, 5, 7.5].map((at) => secondsAt(loop, at * RATE))).toEqual([3, 4, 5, 4, 5, 4, 4.5]);
  });
});

describe('clicks of a performance', () => {
  it('stand on the beats, before the beginning as well', () => {
    expect(clicksBetween({ ...plain, startSeconds: -1.5 }, metre, tempo, 0, 3 * RATE)).toEqual([
      { frame: 0.5 * RATE, strong: false },
      { frame: 1.5 * RATE, strong: true },
      { frame: 2.5 * RATE, strong: false },
    ]);
  });
  it('begin anew with every round of a loop', () => {
    // The loop is beats 1 and 2 of the cue, a beat leads in.
    const loop = { startSeconds: 0, leadFrames: RATE, loopFrames: 2 * RATE };
    const frames = clicksBetween(loop, metre, tempo, 0, 6 * RATE).map(({ frame, strong }) =>
      strong ? `${frame / RATE}!` : String(frame / RATE),
    );
    expect(frames).toEqual(['0!', '1', '2', '3', '4', '5']);
  });
  it('are the same however the time is cut', () => {
    const moving = new TempoMap([
      { tick: 0, bpm: 97.3, ramp: true },
      { tick: 7000, bpm: 151.7 },
    ]);
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: 1, max: 20 * RATE - 1 }), { maxLength: 8 }),
        fc.option(fc.integer({ min: RATE / 2, max: 4 * RATE })),
        (cuts, loopFrames) => {
          const course = { startSeconds: 0.3, leadFrames: 7777, loopFrames };
          const edges = [0, ...cuts.sort((a, b) => a - b), 20 * RATE];
          const pieces = edges
            .slice(1)
            .flatMap((to, i) => clicksBetween(course, metre, moving, edges[i], to));
          expect(pieces).toEqual(clicksBetween(course, metre, moving, 0, 20 * RATE));
        },
      ),
    );
  });
});
