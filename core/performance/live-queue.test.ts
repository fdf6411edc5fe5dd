import { describe, expect, it } from 'vitest';
import type { EngineEvent } from '../engine/index.ts';
import { LiveQueue } from './live-queue.ts';
import type { LiveEvent } from './live.ts';

const RATE = 1000;
const start = (sound: number, track = 0) => ({ kind: 'start', frame: 0, track, sound }) as EngineEvent;
const stop = (sound: number) => ({ kind: 'stop', frame: 0, sound }) as EngineEvent;
const wheel = (track: number) =>
  ({ kind: 'control', frame: 0, track, controller: 1, value: 9 }) satisfies EngineEvent;
const after = (afterSeconds: number, event: EngineEvent): LiveEvent => ({ afterSeconds, event });

/** A queue, and what was applied so far. */
function queue() {
  const applied: EngineEvent[] = [];
  const apply = (event: EngineEvent) => applied.push(event);
  const queue = new LiveQueue();
  return {
    add: (frame: number, ...events: LiveEvent[]) => queue.add(events, frame, RATE, apply),
    drop: (track: number) => queue.dropTrack(track),
    at: (frame: number) => {
      applied.length = 0;
      queue.release(frame, apply);
      return [...applied];
    },
    applied,
  };
}

describe('played events', () => {
  it('of now are applied at once, others when they are due, in the order of their time', () => {
    const { add, at, applied } = queue();
    add(100, after(0.05, start(1)), after(0, start(2)), after(0.02, start(3)), after(0.05, start(4)));
    expect(applied).toEqual([start(2)]);
    expect(at(119)).toEqual([]);
    expect(at(120)).toEqual([start(3)]);
    expect(at(120)).toEqual([]);
    expect(at(900)).toEqual([start(1), start(4)]);
  });
  it('that were let go before they began never begin', () => {
    const { add, at, applied } = queue();
    add(0, after(0.1, start(1)), after(0.1, start(2)), after(0.2, stop(1)));
    add(50, after(0, stop(1)));
    expect(applied).toEqual([stop(1)]);
    expect(at(500)).toEqual([start(2), stop(1)]);
  });
  it('that are due together come in the order of their time, whenever they were taken', () => {
    const { add, at } = queue();
    add(0, after(0.3, start(3)), after(0.1, start(1)), after(0.2, start(2)));
    expect(at(300)).toEqual([start(1), start(2), start(3)]);
  });
  it('that were let go leave what else is to come of the same tone', () => {
    const { add, at } = queue();
    add(0, after(0.1, start(1)), after(0.2, wheel(1)));
    add(10, after(0, wheel(0)));
    expect(at(100)).toEqual([start(1)]);
    add(110, after(0, stop(1)));
    expect(at(900)).toEqual([wheel(1)]);
  });
  it('of one track are forgotten, but for what lets go', () => {
    const { add, at, drop } = queue();
    add(0, after(0.1, start(1, 0)), after(0.1, start(2, 1)), after(0.1, wheel(0)), after(0.1, wheel(1)));
    add(0, after(0.3, stop(1)));
    drop(0);
    expect(at(1000)).toEqual([start(2, 1), wheel(1), stop(1)]);
  });
});
