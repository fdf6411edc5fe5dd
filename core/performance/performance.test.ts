import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import type { EngineEvent } from '../engine/index.ts';
import { TempoMap, type Note, type Part } from '../music/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { setupOf } from '../testing/keymaps.ts';
import {
  eachSoundBetween,
  findingsOf,
  LivePlayer,
  LiveQueue,
  nextTake,
  planPart,
  soundsOf,
  toEvents,
  type PlanContext,
} from './index.ts';

const { instrument, audio } = sineInstrument();
const context: PlanContext = {
  tempo: new TempoMap([{ tick: 0, bpm: 120 }]),
  instrument,
  mix: mixOf(['mix']),
  mode: 'planned',
  articulation: 'connected',
};
const note = (id: string, startTick: number, endTick: number, key = 69, velocity = 90): Note => ({
  id,
  startTick,
  endTick,
  key,
  velocity,
});
const part = (notes: Note[], more: Partial<Part> = {}): Part => ({ notes, marks: [], points: [], ...more });

describe('leads', () => {
  it('start a note so that it speaks on its beat', () => {
    const [sound] = soundsOf(planPart(part([note('a', 960, 1920)]), { ...context, articulation: 'long' }));
    expect(sound.beatSeconds).toBeCloseTo(0.5);
    expect(sound.startSeconds).toBeLessThan(0.5);
    expect(0.5 - sound.startSeconds).toBeCloseTo(sound.leads[sound.take]);
  });
  it('are each take’s own', () => {
    const leads = soundsOf(planPart(part([note('a', 0, 240)]), { ...context, articulation: 'staccato' }))[0]
      .leads;
    expect(leads.length).toBe(4);
    expect(leads[3]).toBeGreaterThan(leads[0]);
  });
  it('agree between what was measured at import and what is measured on loaded audio', () => {
    const lead = (with_: PlanContext) =>
      soundsOf(planPart(part([note('a', 960, 1920)]), with_)).map((s) => s.leads[0])[0];
    expect(lead({ ...context, articulation: 'long', audio })).toBeCloseTo(
      lead({ ...context, articulation: 'long' }),
      2,
    );
  });
});

describe('connected notes', () => {
  const line = part([
    note('a', 0, 960, 67),
    note('b', 960, 1920, 69),
    note('c', 1920, 2880, 69),
    note('d', 4800, 5760, 71),
  ]);
  it('move so that the new pitch lands on its beat, then hold', () => {
    const sounds = soundsOf(planPart(line, context));
    expect(sounds.map((s) => `${s.noteId} ${s.gesture}`)).toEqual([
      'a attack',
      'b move',
      'b hold',
      'c attack',
      'd attack',
    ]);
    const move = sounds[1];
    expect(move.fromKey).toBe(67);
    expect(move.startSeconds + move.leads[0]).toBeCloseTo(0.5, 6);
    expect(sounds[0].endSeconds).toBeCloseTo(move.startSeconds, 6);
    expect(sounds[0].release).toBe(false);
  });
  it('begin on the beat in the other modes', () => {
    const natural = soundsOf(planPart(line, { ...context, mode: 'natural' }))[1];
    const immediate = soundsOf(planPart(line, { ...context, mode: 'immediate' }))[1];
    expect([natural.startSeconds, natural.offsetSeconds]).toEqual([0.5, 0]);
    expect(immediate.startSeconds).toBe(0.5);
    expect(immediate.offsetSeconds).toBeGreaterThan(0.1);
  });
  it.each(['planned', 'natural', 'immediate'] as const)(
    'faster than their moves (%s): each is let go, one move is heard at a time, and planned ones land on their beats',
    (mode) => {
      // Notes of 60 ms; the recorded moves take 150 ms to land.
      const fast = part(
        Array.from({ length: 40 }, (_, i) => note(`n${i}`, i * 115, (i + 1) * 115, 60 + ((i * 5) % 12))),
      );
      const plan = planPart(fast, { ...context, mode });
      const events = toEvents(plan, 0, -1);
      const sounding = new Map<number, number>();
      let most = 0;
      for (const event of events) {
        if (event.kind === 'start') sounding.set(event.sound, event.frame);
        if (event.kind !== 'stop') continue;
        expect(event.frame).toBeGreaterThan(sounding.get(event.sound) ?? Infinity);
        sounding.delete(event.sound);
        most = Math.max(most, sounding.size);
      }
      expect(sounding.size).toBe(0);
      expect(most).toBeLessThanOrEqual(mode === 'planned' ? 2 : 4);
      if (mode !== 'planned') return;
      for (const sound of soundsOf(plan).filter((one) => one.gesture === 'move'))
        expect(sound.startSeconds + sound.leads[0] - sound.offsetSeconds).toBeCloseTo(sound.beatSeconds, 6);
    },
  );
  it('follow marks, and say when something stands in', () => {
    const marked = part(line.notes as Note[], {
      marks: [
        { id: 'm', startTick: 0, endTick: 2000, articulation: 'staccato' },
        { id: 'n', startTick: 4000, endTick: 9000, articulation: 'pizzicato' },
      ],
    });
    const plan = planPart(marked, context);
    expect(soundsOf(plan).map((s) => instrument.articulations[s.articulation].id)).toEqual([
      'staccato',
      'staccato',
      'staccato',
      'staccato',
    ]);
    expect(findingsOf(plan)).toEqual([
      { noteId: 'd', sentence: 'Test section have no pizzicato; staccato stands in.' },
    ]);
  });
});

describe('takes', () => {
  it('never repeat, and are all used', () => {
    let last = -1;
    const seen = new Set<number>();
    for (let i = 0; i < 500; i++) {
      const take = nextTake(i * 2654435761, last, 4);
      expect(take).not.toBe(last);
      seen.add((last = take));
    }
    expect(seen.size).toBe(4);
    expect(nextTake(5, 0, 1)).toBe(0);
  });
  it('of other notes stay when one is added far away', () => {
    const notes = Array.from({ length: 40 }, (_, i) => note(`n${i}`, i * 240, i * 240 + 120, 69));
    const takes = (list: Note[]) =>
      new Map(
        soundsOf(planPart(part(list), { ...context, articulation: 'staccato' })).map((s) => [
          s.noteId,
          s.take,
        ]),
      );
    const before = takes(notes);
    const after = takes([...notes, note('extra', 40 * 240, 41 * 240)]);
    for (const [id, take] of before) expect(after.get(id)).toBe(take);
  });
  it('are told apart by key and technique: what one key does changes no other', () => {
    const staccato = { ...context, articulation: 'staccato' };
    const of = (list: Note[]) =>
      new Map(soundsOf(planPart(part(list), staccato)).map(({ noteId, take }) => [noteId, take]));
    const mine = Array.from({ length: 12 }, (_, i) => note(`n${i}`, i * 480, i * 480 + 120, 69));
    const other = Array.from({ length: 12 }, (_, i) => note(`o${i}`, i * 480 + 240, i * 480 + 360, 72));
    const alone = of(mine);
    const together = of([...mine, ...other].sort((a, b) => a.startTick - b.startTick));
    for (const [id, take] of alone) expect(together.get(id)).toBe(take);
  });
  it('start by their own leads', () => {
    const notes = Array.from({ length: 8 }, (_, i) => note(`n${i}`, 960 + i * 480, 960 + i * 480 + 120));
    for (const sound of soundsOf(planPart(part(notes), { ...context, articulation: 'staccato' }))) {
      expect(sound.leads.length).toBe(4);
      expect(sound.startSeconds).toBeCloseTo(sound.beatSeconds - sound.leads[sound.take], 9);
    }
  });
});

describe('planning after an edit', () => {
  it('gives what planning from scratch gives, whatever was edited', () => {
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const random = new Random(seed);
        const pick = (n: number) => Math.floor(random.next() * n);
        let notes: Note[] = Array.from({ length: 30 }, (_, i) =>
          note(`n${i}`, i * 480, i * 480 + 480 - 240 * pick(2), 60 + pick(12)),
        );
        let plan = planPart(part(notes), context);
        const { marks, points } = plan.part;
        for (let step = 0; step < 6; step++) {
          const at = pick(notes.length);
          const edits = [
            () => notes.filter((_, i) => i !== at),
            () => [...notes, note(`x${step}`, pick(30) * 480, 15_000, 60 + pick(12))],
            () => notes.map((n, i) => (i === at ? { ...n, key: 60 + pick(12) } : n)),
            () => notes.map((n, i) => (i === at ? { ...n, startTick: pick(30) * 480, endTick: 14_600 } : n)),
          ];
          notes = edits[pick(4)]().sort(
            (a, b) => a.startTick - b.startTick || a.key - b.key || (a.id < b.id ? -1 : 1),
          );
          plan = planPart({ notes, marks, points }, context, plan);
          expect(soundsOf(plan)).toEqual(soundsOf(planPart(part(notes), context)));
        }
      }),
      { numRuns: 60 },
    );
  });
  it('sorts notes, also those that came in behind', () => {
    const [a, b, c] = [note('a', 0, 480, 60), note('b', 480, 960, 64), note('c', 960, 1440, 67)];
    const ids = (list: Note[], previous?: ReturnType<typeof planPart>) =>
      planPart(part(list), context, previous).notes.map(({ id }) => id);
    expect(ids([c, a, b])).toEqual(['a', 'b', 'c']);
    expect(ids([b, a])).toEqual(['a', 'b']);
    expect(ids([a, c, b])).toEqual(['a', 'b', 'c']);
    // Together they go by key, then by name.
    expect(ids([note('y', 0, 9, 62), note('x', 0, 9, 62), note('z', 0, 9, 61)])).toEqual(['z', 'x', 'y']);
    const plan = planPart(part([a, c]), context);
    const edited = { ...plan.part, notes: [a, c, b] };
    expect(planPart(edited, context, plan).notes.map(({ id }) => id)).toEqual(['a', 'b', 'c']);
    expect(soundsOf(planPart(edited, context, plan))).toEqual(soundsOf(planPart(part([a, b, c]), context)));
  });
  it('measures nothing anew while every position sounds as before', () => {
    const notes = [note('a', 0, 480), note('b', 960, 1440, 71), note('c', 1440, 1920, 69)];
    const plan = planPart(part(notes), context);
    const louder = {
      ...context,
      mix: { ...context.mix, gainDb: 6, positions: { ...context.mix.positions } },
    };
    const again = planPart(plan.part, louder, plan);
    expect(again.leads).toBe(plan.leads);
    expect(again.segments[0]).toBe(plan.segments[0]);
    expect(again.context).toBe(louder);
    const far = {
      ...context,
      mix: { ...context.mix, positions: { mix: { ...context.mix.positions.mix, delayMs: 5 } } },
    };
    expect(planPart(plan.part, far, again).leads).not.toBe(plan.leads);
    for (const change of [
      { mode: 'natural' as const },
      { articulation: 'long' },
      { tempo: new TempoMap([{ tick: 0, bpm: 60 }]) },
    ])
      expect(soundsOf(planPart(plan.part, { ...context, ...change }, plan))).toEqual(
        soundsOf(planPart(part(notes), { ...context, ...change })),
      );
  });
  it('plans anew when marks or curves have changed', () => {
    const notes = [note('a', 0, 480), note('b', 480, 960, 71)];
    const plan = planPart(part(notes), context);
    const marked = part(notes, {
      marks: [{ id: 'm', startTick: 0, endTick: 960, articulation: 'staccato' }],
    });
    expect(soundsOf(planPart(marked, context, plan))).toEqual(soundsOf(planPart(marked, context)));
    expect(soundsOf(planPart(marked, context, plan))).not.toEqual(soundsOf(plan));
  });
});

describe('a recorded change of loudness', () => {
  it('is told to have no moment at which it speaks', () => {
    const [long] = instrument.articulations.filter(({ id }) => id === 'long');
    const swelling = {
      ...instrument,
      articulations: [...instrument.articulations, { ...long, id: 'swell', name: 'Swell' }],
    };
    const of = (articulation: string) =>
      findingsOf(planPart(part([note('a', 0, 960)]), { ...context, instrument: swelling, articulation }));
    expect(of('swell')).toEqual([{ noteId: 'a', sentence: expect.stringContaining('no moment') as string }]);
    expect(of('long')).toEqual([]);
  });
});

describe('events', () => {
  it('come in order, each start with its stop', () => {
    const plan = planPart(
      part([note('a', 0, 960, 67), note('b', 960, 1920, 69)], {
        points: [
          { id: 'p', controller: 1, tick: 0, value: 10 },
          { id: 'q', controller: 1, tick: 1920, value: 100 },
        ],
      }),
      context,
    );
    const events = toEvents(plan, 3, -1);
    expect(events.every((event, i) => i === 0 || events[i - 1].frame <= event.frame)).toBe(true);
    const starts = events.filter((event) => event.kind === 'start');
    for (const start of starts)
      expect(events.filter((event) => event.kind === 'stop' && event.sound === start.sound)).toHaveLength(1);
    const values = events.flatMap((event) => (event.kind === 'control' ? [event.value] : []));
    expect(values.length).toBeGreaterThan(90);
    expect(values[0]).toBe(10);
    expect(values.at(-1)).toBe(100);
  });
  it('rest until the first point of a curve, whose value is there with the first sound that is meant for it', () => {
    const points = [{ id: 'p', controller: 1, tick: 3840, value: 99 }];
    const plan = planPart(part([note('z', 0, 3000), note('a', 3840, 4800)], { points }), context);
    const controls = toEvents(plan, 0, 0).filter((event) => event.kind === 'control');
    const [, begins] = toEvents(plan, 0, 0).filter((event) => event.kind === 'start');
    // Without a keymap the dynamics rest at 80.
    expect(controls.map(({ value }) => value)).toEqual([80, 99]);
    expect(controls[0].frame).toBe(0);
    expect(controls[1].frame).toBeLessThanOrEqual(begins.frame);
    expect(controls[1].frame).toBeGreaterThan(begins.frame - 0.03 * 48_000);
  });
  it('have the first value of a curve from the beginning on when its point is there', () => {
    const points = [{ id: 'p', controller: 1, tick: 0, value: 99 }];
    const plan = planPart(part([note('a', 0, 4800)], { points }), context);
    const controls = toEvents(plan, 0, -1).filter((event) => event.kind === 'control');
    expect(controls).toMatchObject([{ frame: 0, value: 99 }]);
  });
  it('of a curve that begins while notes are held leave them at rest until there', () => {
    const points = [{ id: 'p', controller: 1, tick: 1920, value: 30 }];
    const plan = planPart(part([note('a', 0, 4800)], { points }), context);
    const controls = toEvents(plan, 0, 0).filter((event) => event.kind === 'control');
    expect(controls.map(({ value }) => value)).toEqual([80, 30]);
    // At 120 a minute two quarters are a second.
    expect(controls[1].frame).toBe(48_000);
  });
  it('leave out what is over before the start, but not a lead that reaches back', () => {
    const plan = planPart(part([note('a', 0, 480), note('b', 960, 1440)]), {
      ...context,
      articulation: 'long',
    });
    const starts = toEvents(plan, 0, 0.5).filter((event) => event.kind === 'start');
    expect(starts).toHaveLength(1);
    expect(starts[0].frame).toBe(0);
    expect(starts[0].offsetSeconds).toBeGreaterThan(0);
  });
});

describe('playing by hand', () => {
  const player = () =>
    new LivePlayer(instrument, 0, setupOf(instrument, { staccato: 24 }), 'connected', mixOf(['mix']));
  const kinds = (list: { event: { kind: string } }[]) => list.map(({ event }) => event.kind);
  it('sounds at once and stops when let go', () => {
    const hand = player();
    expect(kinds(hand.message(0x90, 69, 100))).toEqual(['start']);
    expect(hand.soundingKeys).toEqual([69]);
    expect(kinds(hand.message(0x80, 69, 0))).toContain('stop');
    expect(hand.soundingKeys).toEqual([]);
  });
  it('lets go of all at once, also of what the pedal holds', () => {
    const hand = player();
    hand.message(0xb0, 64, 127);
    const begun = [60, 67, 72].flatMap((key) => hand.message(0x90, key, 100));
    const sounds = new Set(begun.flatMap(({ event }) => (event.kind === 'start' ? [event.sound] : [])));
    expect(kinds(hand.message(0x80, 60, 0))).toEqual([]);
    const stopped = hand.allOff().flatMap(({ event }) => (event.kind === 'stop' ? [event.sound] : []));
    expect(hand.soundingKeys).toEqual([]);
    for (const sound of stopped) expect(sounds.has(sound)).toBe(true);
    expect(stopped.length).toBeGreaterThan(0);
    // Nothing is held by the pedal any more.
    hand.message(0x90, 60, 100);
    expect(kinds(hand.message(0x80, 60, 0))).toContain('stop');
  });
  it('lets go of what is held, and goes on numbering, after the mix was moved or more was loaded', () => {
    const hand = player();
    const [first] = hand.message(0x90, 69, 100);
    hand.hearBy({ ...mixOf(['mix']), gainDb: -6 }, audio);
    expect(hand.soundingKeys).toEqual([69]);
    const ends = hand.message(0x80, 69, 0).map(({ event }) => event.kind === 'stop' && event.sound);
    expect(first.event.kind === 'start' && ends.includes(first.event.sound)).toBe(true);
    const [next] = hand.message(0x90, 69, 100);
    expect(next.event).toMatchObject({ kind: 'start' });
    expect(next.event.kind === 'start' && first.event.kind === 'start' && next.event.sound).not.toBe(
      first.event.kind === 'start' && first.event.sound,
    );
  });
  it('connects overlapping notes by the end of a recorded move', () => {
    const hand = player();
    hand.message(0x90, 67, 100);
    const move = hand
      .message(0x90, 69, 100)
      .find(({ event }) => event.kind === 'start' && event.role === 'transition');
    expect(move?.event).toMatchObject({ fromKey: 67, key: 69 });
    expect(move?.event.kind === 'start' && move.event.offsetSeconds).toBeGreaterThan(0.05);
  });
  it('leaves nothing sounding, however fast connected notes follow each other', () => {
    const hand = player();
    const queue = new LiveQueue();
    const open = new Set<number>();
    const apply = (event: EngineEvent) => {
      if (event.kind === 'start') open.add(event.sound);
      if (event.kind === 'stop') open.delete(event.sound);
    };
    const messages = [
      [0x90, 67],
      [0x90, 69],
      [0x90, 71],
      [0x80, 67],
      [0x90, 72],
      [0x80, 69],
      [0x80, 71],
      [0x80, 72],
    ];
    messages.forEach(([status, key], i) => {
      // Thirty milliseconds apart: the tone after a move has not begun when the next move is played.
      queue.release(i * 1440, apply);
      queue.add(hand.message(status, key, 90), i * 1440, 48_000, apply);
    });
    queue.release(480_000, apply);
    expect(open).toEqual(new Set());
    expect(hand.soundingKeys).toEqual([]);
  });
  it('obeys keyswitches, the pedal and the wheel', () => {
    const hand = player();
    expect(hand.message(0x90, 24, 100)).toEqual([]);
    expect(hand.articulation).toBe('staccato');
    hand.message(0xb0, 64, 127);
    hand.message(0x90, 69, 90);
    expect(hand.message(0x80, 69, 0)).toEqual([]);
    expect(kinds(hand.message(0xb0, 64, 0))).toContain('stop');
    expect(hand.message(0xe0, 0, 64)[0].event).toMatchObject({ kind: 'control', controller: 128, value: 64 });
  });
});

describe('the sounds between two moments', () => {
  it('are those of all that reach into them, in order', () => {
    const notes = Array.from({ length: 300 }, (_, i) =>
      note(`n${i}`, i * 240, i * 240 + 200 + (i % 7) * 300, 60 + (i % 12)),
    );
    const plan = planPart(part(notes), context);
    const all = soundsOf(plan);
    for (const [from, to] of [
      [0, 1],
      [3.3, 3.4],
      [10, 30],
      [-5, 0],
      [1000, 1001],
      [0, 1e6],
    ]) {
      const seen: unknown[] = [];
      eachSoundBetween(plan, from, to, (sound) => seen.push(sound));
      expect(seen).toEqual(
        all.filter((one) => one.startSeconds <= to && (one.endSeconds >= from || one.beatSeconds >= from)),
      );
    }
  });
});
