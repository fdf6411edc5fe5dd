import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { POSITION_LEVEL, type EngineEvent } from '../engine/index.ts';
import { TempoMap, type Note, type Part } from '../music/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { Feed, planPart, toEvents, type Plan } from './index.ts';

const { instrument } = sineInstrument();
const context = {
  tempo: new TempoMap([{ tick: 0, bpm: 120 }]),
  instrument,
  mix: mixOf(['mix']),
  mode: 'planned' as const,
  articulation: 'long',
};
const note = (id: string, startTick: number, endTick: number, key = 69): Note => ({
  id,
  startTick,
  endTick,
  key,
  velocity: 90,
});
const partOf = (notes: Note[], points: Part['points'] = []): Part => ({ notes, marks: [], points });
const planOf = (notes: Note[], before?: Plan, points: Part['points'] = []) =>
  planPart(partOf(notes, points), context, before);

/** Notes of up to four seconds somewhere in the first ten. */
const notes = fc
  .array(
    fc.record({
      startTick: fc.integer({ min: 0, max: 19_200 }),
      length: fc.integer({ min: 10, max: 7680 }),
      key: fc.integer({ min: 60, max: 78 }),
    }),
    { maxLength: 12 },
  )
  .map((list) =>
    list.map(({ startTick, length, key }, i) => note(`n${i}`, startTick, startTick + length, key)),
  );

const second = 48_000;
const starts = (events: readonly EngineEvent[]) =>
  events.flatMap((event) => (event.kind === 'start' ? event : []));
const stops = (events: readonly EngineEvent[]) =>
  events.flatMap((event) => (event.kind === 'stop' ? event : []));

/** What sounds after events, as an engine that does nothing else would have it: numbers of planned sounds. */
class Listener {
  readonly sounding = new Set<number>();
  private queue: EngineEvent[] = [];
  private frame = 0;

  add(events: readonly EngineEvent[]): void {
    this.queue.push(...events);
  }
  drop(frame: number): void {
    this.queue = this.queue.filter((event) => event.frame < frame);
  }
  playTo(frame: number): void {
    for (const event of this.queue.filter((one) => one.frame >= this.frame && one.frame < frame)) {
      if (event.kind === 'start') this.sounding.add(event.sound);
      else if (event.kind === 'stop') this.sounding.delete(event.sound);
      else if (event.kind === 'keep')
        for (const sound of this.sounding) if (!event.sounds.includes(sound)) this.sounding.delete(sound);
    }
    this.frame = frame;
  }
}

describe('a feed', () => {
  it('gives window by window what the whole plan gives at once', () => {
    fc.assert(
      fc.property(
        notes,
        fc.array(fc.integer({ min: 1, max: 90_000 }), { minLength: 3, maxLength: 9 }),
        fc.double({ min: 0, max: 6, noNaN: true }),
        (list, steps, from) => {
          const plan = planOf(list, undefined, [
            { id: 'p', controller: 1, tick: 0, value: 20 },
            { id: 'q', controller: 1, tick: 9600, value: 90 },
          ]);
          const feed = new Feed({ startSeconds: from, leadFrames: 0, loopFrames: null });
          const events = feed.begin([undefined, plan], steps[0]);
          for (const step of steps.slice(1)) events.push(...feed.go(feed.until + step));
          expect(feed.until).toBe(steps.reduce((sum, step) => sum + step));
          const right = toEvents(plan, 1, from).filter(({ frame }) => frame < feed.until);
          expect(events).toEqual(right);
        },
      ),
    );
  });
  it('after any edits lets nothing sound that the last plan does not hold, and everything that it does', () => {
    fc.assert(
      fc.property(
        notes,
        fc.array(fc.tuple(notes, fc.integer({ min: 1, max: 60_000 })), { minLength: 1, maxLength: 5 }),
        (first, edits) => {
          let plan = planOf(first);
          const feed = new Feed({ startSeconds: 0, leadFrames: 0, loopFrames: null });
          const listener = new Listener();
          listener.add(feed.begin([plan], 2 * second));
          let frame = 0;
          for (const [list, wait] of edits) {
            frame += wait;
            listener.playTo(frame);
            if (feed.until - frame < second) listener.add(feed.go(frame + 2 * second));
            plan = planOf(list, plan);
            const change = feed.change([plan], frame + 4800);
            if (!change) continue;
            expect(change.tracks).toEqual([0]);
            listener.drop(change.frame);
            listener.add(change.events);
          }
          listener.add(feed.go(frame + 2 * second));
          frame += 6000;
          listener.playTo(frame);
          const held = new Set<number>();
          for (const event of toEvents(plan, 0, 0))
            if (event.frame < frame) {
              if (event.kind === 'start') held.add(event.sound);
              else if (event.kind === 'stop') held.delete(event.sound);
            }
          expect([...listener.sounding].sort()).toEqual([...held].sort());
        },
      ),
    );
  });
  it('leaves sounds of other notes their numbers, so that an edit before a sounding note does not let it hang', () => {
    const held = note('held', 960, 9600, 70);
    const before = planOf([note('early', 0, 480), held]);
    const after = planOf([held], before);
    const number = (plan: Plan) => starts(toEvents(plan, 0, 0)).find(({ key }) => key === 70)?.sound;
    expect(number(after)).toBe(number(before));
    const feed = new Feed({ startSeconds: 0, leadFrames: 0, loopFrames: null });
    feed.begin([before], 3 * second);
    const change = feed.change([after], second);
    // It sounds and goes on: it is kept, not begun again, and its end is to come.
    expect(change?.events[0]).toMatchObject({ kind: 'keep', frame: second, sounds: [number(before)] });
    expect(starts(change?.events ?? [])).toEqual([]);
    expect(stops(feed.go(20 * second)).map(({ sound }) => sound)).toEqual([number(before)]);
  });
  it('tells nothing of tracks that stayed as they are', () => {
    const [one, two] = [planOf([note('a', 0, 9600)]), planOf([note('b', 0, 9600)])];
    const feed = new Feed({ startSeconds: 0, leadFrames: 0, loopFrames: null });
    feed.begin([one, two], 2 * second);
    expect(feed.change([one, two], second)).toBeUndefined();
    const changed = planOf([note('b', 0, 9600, 72)]);
    expect(feed.change([one, changed], second)?.events.every(({ track }) => track === 1)).toBe(true);
    // What was not told yet is told by the next window; what sounds by then is looked at where the telling ended.
    const late = feed.change([one, two], 3 * second);
    expect([late?.frame, late?.events.map(({ kind }) => kind)]).toEqual([2 * second, ['keep', 'start']]);
    // A track that is gone is let go.
    expect(feed.change([one], second)?.events).toEqual([
      { kind: 'keep', frame: second, track: 1, sounds: [] },
    ]);
  });
  it('goes round a loop: at each seam what was planned is let go, and what is held there entered', () => {
    const plan = planOf([note('across', 0, 3000), note('in', 1920, 2400, 72)]);
    // From the second beat on, one second long.
    const feed = new Feed({ startSeconds: 0.5, leadFrames: 0, loopFrames: second });
    const events = [...feed.begin([plan], 30_000), ...feed.go(100_000), ...feed.go(150_000)];
    const keeps = events.filter(({ kind }) => kind === 'keep');
    expect(keeps.map(({ frame }) => frame)).toEqual([second, 2 * second, 3 * second]);
    const entered = starts(events).filter(({ key }) => key === 69);
    expect(entered.map(({ frame }) => frame)).toEqual([0, second, 2 * second, 3 * second]);
    expect(entered[1].offsetSeconds).toBeGreaterThan(0.4);
    const inside = starts(events).filter(({ key }) => key === 72);
    expect(inside.map(({ frame }) => frame - inside[0].frame)).toEqual(
      [0, second, 2 * second].slice(0, inside.length),
    );
    expect(events.every((event, i) => i === 0 || event.frame >= events[i - 1].frame)).toBe(true);
    // The part of a loop that was told already is told anew from the change on, with its seams.
    const change = feed.change([planOf([note('in', 1920, 2400, 74)])], 90_000);
    expect(change?.events.filter(({ kind }) => kind === 'keep').map(({ frame }) => frame)).toEqual([
      90_000,
      2 * second,
      3 * second,
    ]);
    expect(starts(change?.events ?? []).every(({ key }) => key === 74)).toBe(true);
  });
  it('catches controllers up where a plan changes', () => {
    const points = (value: number) => [{ id: 'p', controller: 1, tick: 0, value }];
    const feed = new Feed({ startSeconds: 0, leadFrames: 0, loopFrames: null });
    feed.begin([planOf([note('a', 0, 9600)], undefined, points(30))], 2 * second);
    const change = feed.change([planOf([note('a', 0, 9600)], undefined, points(99))], second);
    expect(change?.events.filter(({ kind }) => kind === 'control')).toEqual([
      { kind: 'control', frame: second, track: 0, controller: 1, value: 99 },
    ]);
  });
});

describe('levels of positions that move', () => {
  const moving = (moves: { tick: number; levelDb: number; positionId?: string }[] | undefined) =>
    planPart(partOf([note('a', 0, 9600)]), {
      ...context,
      moves: moves?.map((one) => ({ positionId: 'mix', ...one })),
    });
  const told = (events: readonly EngineEvent[]) =>
    events.flatMap((event) =>
      event.kind === 'control' && event.controller === POSITION_LEVEL
        ? [[event.frame / second, event.value]]
        : [],
    );

  it('rest until their first place, go straight from place to place, and hold after the last', () => {
    // Two quarters a second: tick 1920 is at one second, 3840 at two.
    const events = told(
      toEvents(
        moving([
          { tick: 3840, levelDb: 6 },
          { tick: 1920, levelDb: -6 },
        ]),
        0,
        0,
      ),
    );
    expect(events[0]).toEqual([0, 0]);
    expect(events[1]).toEqual([1, -6]);
    expect(events.at(-1)).toEqual([2, 6]);
    const middle = events.find(([at]) => Math.abs(at - 1.5) < 0.002) ?? [0, 0];
    expect(middle[1]).toBeCloseTo(0, 1);
    // Entered in its middle it stands where it is there.
    const [first] = told(
      toEvents(
        moving([
          { tick: 1920, levelDb: -6 },
          { tick: 3840, levelDb: 6 },
        ]),
        0,
        1.75,
      ),
    );
    expect(first[0]).toBe(0);
    expect(first[1]).toBeCloseTo(3, 0);
  });

  it('are not spoken of where nothing moves, and told to rest once nothing does any more', () => {
    expect(told(toEvents(moving(undefined), 0, 0))).toEqual([]);
    expect(told(toEvents(moving([]), 0, 0))).toEqual([[0, 0]]);
    expect(told(toEvents(moving([{ tick: 0, levelDb: 3, positionId: 'far' }]), 0, 0))).toEqual([[0, 0]]);
  });

  it('are drawn while the cue plays without a note being planned anew', () => {
    const feed = new Feed({ startSeconds: 0, leadFrames: 0, loopFrames: null });
    const before = moving([]);
    feed.begin([before], 4 * second);
    const after = planPart(
      before.part,
      { ...before.context, moves: [{ positionId: 'mix', tick: 1920, levelDb: -9 }] },
      before,
    );
    expect(after.segments).toEqual(before.segments);
    const change = feed.change([after], second / 2);
    expect(starts(change?.events ?? [])).toEqual([]);
    expect(told(change?.events ?? [])).toEqual([
      [0.5, 0],
      [1, -9],
    ]);
  });
});
