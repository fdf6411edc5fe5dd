import { describe, expect, it } from 'vitest';
import type { Articulation, Instrument } from '../catalogue/index.ts';
import type { EngineEvent, SampleAudio } from '../engine/index.ts';
import {
  PLAIN_TOUCH,
  plainRide,
  Responses,
  type Entry,
  type Ride,
  type TouchRules,
} from '../keymap/index.ts';
import { CONTROLLER, TempoMap, type Note, type Part } from '../music/index.ts';
import { instrumentOf, mixOf, plainZone, sine, sineInstrument } from '../testing/fixtures.ts';
import { entry, setupOf, source, trigger } from '../testing/keymaps.ts';
import {
  findingsOf,
  LivePlayer,
  planPart,
  soundsOf,
  toEvents,
  type PlanContext,
  type PlannedSound,
} from './index.ts';

/** What a keymap changes about what is planned and played: layers, attacks, morphs, controllers, velocity. */

const { instrument: sines, audio } = sineInstrument();
const tempo = new TempoMap([{ tick: 0, bpm: 120 }]);
const mix = mixOf(['mix']);
const [CONNECTED, LONG, STACCATO] = [0, 1, 2];
const note = (id: string, startTick: number, endTick: number, key = 69, velocity = 90): Note => ({
  id,
  startTick,
  endTick,
  key,
  velocity,
});
const partOf = (notes: Note[], more: Partial<Part> = {}): Part => ({ notes, marks: [], points: [], ...more });
const contextOf = (
  entries: readonly Entry[] = [],
  more: Partial<PlanContext> & { instrument?: Instrument } = {},
): PlanContext => ({
  tempo,
  mix,
  mode: 'planned',
  articulation: 'long',
  instrument: sines,
  ...more,
  voicing: setupOf(more.instrument ?? sines, entries).voicing,
});
const responses = (rides: readonly Ride[], touch: Partial<TouchRules> = {}) =>
  new Responses(rides, { ...PLAIN_TOUCH, ...touch });
const ride = (parameter: Ride['parameter'], fields: Partial<Ride>): Ride => ({
  ...plainRide(parameter),
  ...fields,
});
const sounds = (part: Part, context: PlanContext) => soundsOf(planPart(part, context));
const told = (list: readonly PlannedSound[]) =>
  list.map(({ noteId, gesture, articulation }) => `${noteId} ${gesture} ${articulation}`);

describe('layers', () => {
  const layered = [
    entry('long', 24, { sources: [source('long'), source('staccato', { levelDb: -9 })] }),
    entry('connected', 25, { sources: [source('connected'), source('long', { levelDb: -6 })] }),
  ];
  it('sound together, each with its level and its own lead', () => {
    const [long, short] = sounds(partOf([note('a', 960, 1920)]), contextOf(layered));
    expect([long.articulation, long.levelDb, short.articulation, short.levelDb]).toEqual([
      LONG,
      0,
      STACCATO,
      -9,
    ]);
    expect(long.leads[0]).not.toBeCloseTo(short.leads[0], 3);
    for (const sound of [long, short])
      expect(sound.startSeconds).toBeCloseTo(0.5 - sound.leads[sound.take], 9);
    const starts = toEvents(planPart(partOf([note('a', 960, 1920)]), contextOf(layered)), 0, -1).filter(
      (event) => event.kind === 'start',
    );
    expect(starts.map(({ levelDb }) => levelDb)).toEqual([undefined, -9]);
  });
  it('keep a connected line connected, with the other as a line of its own beside it', () => {
    const line = partOf([note('a', 0, 960, 67), note('b', 960, 1920, 69)]);
    const list = sounds(line, contextOf(layered, { articulation: 'connected' }));
    expect(told(list)).toEqual([
      `a attack ${CONNECTED}`,
      `b move ${CONNECTED}`,
      `b hold ${CONNECTED}`,
      `a attack ${LONG}`,
      `b attack ${LONG}`,
    ]);
    // What takes over in a line takes over from the sound just before it.
    const events = toEvents(planPart(line, contextOf(layered, { articulation: 'connected' })), 0, -1);
    const starts = events.flatMap((event) => (event.kind === 'start' ? event : []));
    const own = starts.filter(({ articulation }) => articulation !== LONG || starts[0].articulation === LONG);
    const joining = starts.filter(({ joins }) => joins !== undefined);
    expect(joining).toHaveLength(2);
    for (const one of joining) expect(own[own.indexOf(one) - 1].sound).toBe(one.joins);
  });
  it('of a morph are told to the engine with where its controller lets each be heard', () => {
    const morphed = entry('long', 24, {
      sources: [source('long'), source('staccato', { morphAt: 127 })],
      morph: 20,
    });
    const plan = planPart(partOf([note('a', 960, 1920)]), contextOf([morphed]));
    const starts = toEvents(plan, 0, 0).filter((event) => event.kind === 'start');
    expect(starts.map((event) => event.morph)).toEqual([
      { controller: 20, inLow: 0, inHigh: 0, outLow: 0, outHigh: 127 },
      { controller: 20, inLow: 0, inHigh: 127, outLow: 127, outHigh: 127 },
    ]);
    const plain = toEvents(planPart(partOf([note('a', 960, 1920)]), contextOf()), 0, 0);
    expect(plain.some((event) => 'morph' in event || 'levelDb' in event)).toBe(false);
  });
  it('are split by velocity', () => {
    const split = [
      entry('long', 24, {
        sources: [source('long', { velocityHigh: 100 }), source('staccato', { velocityLow: 101 })],
      }),
    ];
    const at = (velocity: number) =>
      sounds(partOf([note('a', 0, 960, 69, velocity)]), contextOf(split))[0].articulation;
    expect([at(100), at(101)]).toEqual([LONG, STACCATO]);
  });
});

describe('the attack of a short on the body of a long', () => {
  const laid = [
    entry('long', 24, {
      sources: [source('staccato', { part: 'attack', levelDb: -3 }), source('long', { part: 'body' })],
    }),
  ];
  it('is heard briefly, over a body that comes in at the beat where it speaks', () => {
    const [body, attack] = sounds(partOf([note('a', 960, 3840)]), contextOf(laid));
    expect([body.articulation, attack.articulation]).toEqual([LONG, STACCATO]);
    // It speaks after 60 ms: there it is entered, under a fade around the beat.
    const [plain] = sounds(partOf([note('a', 960, 3840)]), contextOf());
    expect(body.offsetSeconds).toBeCloseTo(plain.leads[0], 9);
    expect(body.startSeconds + body.fadeInSeconds / 2).toBeCloseTo(0.5, 9);
    expect(attack.startSeconds).toBeCloseTo(0.5 - attack.leads[attack.take], 9);
    expect(attack.endSeconds).toBeCloseTo(0.62, 9);
    expect([attack.release, attack.endFadeSeconds > 0]).toEqual([false, true]);
    expect(body.endSeconds).toBeCloseTo(2, 9);
  });
  it('is laid on connected notes too, at every one of them', () => {
    const connected = [
      entry('connected', 24, { sources: [source('connected'), source('staccato', { part: 'attack' })] }),
    ];
    const list = sounds(
      partOf([note('a', 0, 960, 67), note('b', 960, 1920, 69)]),
      contextOf(connected, { articulation: 'connected' }),
    );
    expect(told(list).slice(-2)).toEqual([`a attack ${STACCATO}`, `b attack ${STACCATO}`]);
    expect(told(list)).toContain(`b move ${CONNECTED}`);
  });
});

describe('onset trim, random starts and transition pace', () => {
  it('cut into shorts, and their leads follow, so that they go on speaking on the beat', () => {
    const with_ = (value: number) =>
      sounds(
        partOf([note('a', 960, 1200)], {
          points: [{ id: 'p', controller: CONTROLLER.onsetTrim, tick: 0, value }],
        }),
        contextOf([], { articulation: 'staccato' }),
      )[0];
    const [plain, cut] = [with_(0), with_(127 / 30)];
    // 127 are 60 ms, so this is 2 ms.
    expect(cut.offsetSeconds).toBeCloseTo(0.002, 9);
    plain.leads.forEach((lead, take) => expect(cut.leads[take]).toBeCloseTo(Math.max(0, lead - 0.002), 9));
    expect(with_(127).leads.every((lead) => lead === 0)).toBe(true);
    const [long] = sounds(
      partOf([note('a', 960, 1200)], {
        points: [{ id: 'p', controller: CONTROLLER.onsetTrim, tick: 0, value: 127 }],
      }),
      contextOf(),
    );
    expect(long.offsetSeconds).toBe(0);
  });
  it('begin longs elsewhere each time, the same for the same note', () => {
    const notes = Array.from({ length: 40 }, (_, i) => note(`n${i}`, i * 960, i * 960 + 900));
    const points = [{ id: 'p', controller: CONTROLLER.randomStart, tick: 0, value: 127 }];
    const places = sounds(partOf(notes, { points }), contextOf()).map(({ offsetSeconds }) => offsetSeconds);
    expect(Math.max(...places)).toBeLessThanOrEqual(0.08);
    expect(new Set(places.map((place) => place.toFixed(4))).size).toBeGreaterThan(35);
    expect(Math.max(...places) - Math.min(...places)).toBeGreaterThan(0.06);
    expect(sounds(partOf(notes, { points }), contextOf()).map(({ offsetSeconds }) => offsetSeconds)).toEqual(
      places,
    );
    for (const place of sounds(partOf(notes), contextOf())) expect(place.offsetSeconds).toBe(0);
  });
  it('leave less of a move to be heard, landing on the beat all the same', () => {
    const heard = (value: number) => {
      const points = [{ id: 'p', controller: CONTROLLER.transitionPace, tick: 0, value }];
      const [, move] = sounds(
        partOf([note('a', 0, 960, 67), note('b', 960, 1920, 69)], { points }),
        contextOf([], { articulation: 'connected' }),
      );
      expect(move.startSeconds + (move.leads[0] - move.offsetSeconds)).toBeCloseTo(0.5, 9);
      return move.leads[0] - move.offsetSeconds;
    };
    expect(heard(0)).toBeCloseTo(0.15, 3);
    expect(heard(64)).toBeCloseTo(0.15 * (1 - (0.75 * 64) / 127), 3);
    // Forty milliseconds are the least.
    expect(heard(127)).toBeCloseTo(0.04, 3);
  });
});

/** A connected instrument with slides and new bows beside its own moves, each told by its lead. */
function stringsOf(): Instrument {
  const sample = sine(440, 0.6, 0.5, 0.02);
  const audio_ = new Map<string, SampleAudio>([['tone', sample]]);
  const long = plainZone({ samples: { mix: { sample: 'tone' } }, loop: { start: 9600, end: 19200 } });
  const moving = (leadSeconds: number, repeats = false): Articulation['zones'] => [
    long,
    ...Array.from({ length: 25 }, (_, i) => i - 12)
      .filter((interval) => interval !== 0 || repeats)
      .map((interval) =>
        plainZone({
          role: 'transition',
          interval,
          oneShot: true,
          samples: { mix: { sample: 'tone', leadSeconds, levelDb: -10 } },
        }),
      ),
  ];
  return instrumentOf(
    [
      { id: 'connected', name: 'legato', zones: moving(0.1) },
      { id: 'slide', name: 'portamento', zones: moving(0.2) },
      { id: 'bow change', name: 'rebow', zones: moving(0.06, true) },
    ],
    audio_,
  );
}

describe('what velocity and dynamics do', () => {
  it('choose the kind of move: a slide when soft, a new bow when hard', () => {
    const instrument = stringsOf();
    const kind = (velocity: number, touch: Partial<TouchRules>, toKey = 69) =>
      sounds(
        partOf([note('a', 0, 960, 67), note('b', 960, 1920, toKey, velocity)]),
        contextOf([], { instrument, articulation: 'connected', responses: responses([], touch) }),
      )[1];
    const rules = { slideBelow: 40, bowFrom: 100 };
    expect([40, 41, 99, 100].map((velocity) => kind(velocity, rules).articulation)).toEqual([1, 0, 0, 2]);
    expect([1, 127].map((velocity) => kind(velocity, {}).articulation)).toEqual([0, 0]);
    // A repeated key: only the new bow was recorded on it.
    expect(kind(110, rules, 67)).toMatchObject({ gesture: 'move', articulation: 2 });
    expect(kind(90, rules, 67)).toMatchObject({ gesture: 'attack' });
    // The tone after the move is the line's own.
    const held = sounds(
      partOf([note('a', 0, 960, 67), note('b', 960, 2880, 69, 20)]),
      contextOf([], { instrument, articulation: 'connected', responses: responses([], rules) }),
    );
    expect(told(held)).toEqual(['a attack 0', 'b move 1', 'b hold 0']);
  });
  it('set the level of longs, and the level or force of shorts', () => {
    const at = (articulation: string, touch: Partial<TouchRules>, velocity: number, dynamics: number) =>
      sounds(
        partOf([note('a', 0, 960, 69, velocity)], {
          points: [{ id: 'p', controller: CONTROLLER.dynamics, tick: 0, value: dynamics }],
        }),
        contextOf([], { articulation, responses: responses([], touch) }),
      )[0];
    expect(at('long', { longVelocityDb: 12 }, 64, 80).levelDb).toBeCloseTo(-6, 9);
    expect(at('staccato', { shortDynamics: 'level' }, 64, 0).levelDb).toBe(-24);
    expect(at('staccato', { shortDynamics: 'force' }, 64, 127)).toMatchObject({ velocity: 127, levelDb: 0 });
    expect(at('staccato', {}, 64, 127)).toMatchObject({ velocity: 64, levelDb: 0 });
  });
});

describe('controllers of a part', () => {
  const points = [
    { id: 'a', controller: CONTROLLER.dynamics, tick: 0, value: 127 },
    { id: 'b', controller: 20, tick: 0, value: 33 },
  ];
  const controls = (more: Partial<PlanContext>) =>
    toEvents(planPart(partOf([note('a', 0, 960)], { points }), contextOf([], more)), 0, 0).flatMap((event) =>
      event.kind === 'control' ? [[event.controller, event.value]] : [],
    );
  it('are heard along their curves; what is not written rests where the keymap says', () => {
    const told_ = new Map(
      controls({
        responses: responses([
          ride('dynamics', { high: 100 }),
          ride('vibrato', { follows: 'dynamics', high: 64 }),
          ride('brightness', { rest: 50 }),
        ]),
      }) as [number, number][],
    );
    expect(told_.get(CONTROLLER.dynamics)).toBe(100);
    expect(told_.get(CONTROLLER.vibrato)).toBe(64);
    expect(told_.get(CONTROLLER.brightness)).toBe(50);
    expect(told_.get(CONTROLLER.expression)).toBe(127);
    // What is no parameter goes through as it is.
    expect(told_.get(20)).toBe(33);
  });
  it('go through as they are where nothing is said', () => {
    expect(controls({})).toEqual([
      [CONTROLLER.dynamics, 127],
      [20, 33],
    ]);
  });
});

describe('recorded noises', () => {
  it('are marked as such wherever they sound', () => {
    const zones = sines.articulations[STACCATO].zones;
    const instrument = instrumentOf(
      [sines.articulations[LONG], { id: 'noises', name: 'key noise', zones }],
      audio,
    );
    const entries = [entry('long', 24, { sources: [source('long'), source('noises', { levelDb: -12 })] })];
    const list = sounds(partOf([note('a', 0, 960)]), contextOf(entries, { instrument }));
    expect(list.map((sound) => sound.noise)).toEqual([false, true]);
  });
});

describe('findings', () => {
  it('tell what stands in, by the house’s words, and a key that nothing plays', () => {
    const marks = [{ id: 'm', startTick: 0, endTick: 960, articulation: 'pizzicato' }];
    expect(
      findingsOf(planPart(partOf([note('a', 0, 960)], { marks }), contextOf())).map((one) => one.sentence),
    ).toEqual(['Test section have no pizzicato; staccato stands in.']);
  });
});

describe('hands by a keymap', () => {
  const kinds = (events: { event: EngineEvent }[]) =>
    events.flatMap(({ event }) => (event.kind === 'start' ? [`${event.role} ${event.articulation}`] : []));
  const player = (entries: readonly Entry[], responses_ = new Responses(), instrument = sines) =>
    new LivePlayer(
      instrument,
      0,
      { ...setupOf(instrument, entries), responses: responses_ },
      entries[0].articulation,
      mix,
    );
  it('select by program, bank, controller and channel, and say why', () => {
    const hand = player([
      entry('long', 24),
      entry('staccato', [trigger({ id: 'p', kind: 'program', number: 3 })]),
      entry('connected', [trigger({ id: 'c', kind: 'controller', number: 32, low: 64, high: 127 })]),
      entry('muted', [trigger({ id: 'h', kind: 'channel', number: 5 })]),
    ]);
    expect(hand.message(0xc0, 3, 0)).toEqual([]);
    expect(kinds(hand.message(0x90, 69, 80))).toEqual([`attack ${STACCATO}`]);
    hand.message(0xb0, 32, 90);
    expect(hand.articulation).toBe('connected');
    expect(hand.resolution.because.map(({ id }) => id)).toEqual(['c']);
    hand.message(0x95, 71, 80);
    expect(hand.resolution).toMatchObject({ articulation: 'muted', because: [{ id: 'h' }] });
    const banked = player([
      entry('long', 24),
      entry('staccato', [
        trigger({ id: 'b', kind: 'bank', number: 130 }),
        trigger({ id: 'p', kind: 'program', number: 0 }),
      ]),
    ]);
    for (const [status, data1, data2] of [
      [0xb0, 0, 1],
      [0xb0, 32, 2],
      [0xc0, 0, 0],
    ])
      banked.message(status, data1, data2);
    expect(banked.articulation).toBe('staccato');
  });
  it('play layers, and let all of them go', () => {
    const hand = player([
      entry('long', 24, { sources: [source('long'), source('staccato', { levelDb: -9 })] }),
    ]);
    const down = hand.message(0x90, 69, 80);
    expect(kinds(down)).toEqual([`attack ${LONG}`, `attack ${STACCATO}`]);
    expect(down.map(({ event }) => event.kind === 'start' && event.levelDb)).toEqual([undefined, -9]);
    const started = down.map(({ event }) => event.kind === 'start' && event.sound);
    const stopped = hand.message(0x80, 69, 0).map(({ event }) => event.kind === 'stop' && event.sound);
    for (const sound of started) expect(stopped).toContain(sound);
    expect(hand.soundingKeys).toEqual([]);
  });
  it('lay an attack on a body, and connect the body alone', () => {
    const hand = player([
      entry('connected', 24, { sources: [source('connected'), source('staccato', { part: 'attack' })] }),
    ]);
    hand.message(0x90, 67, 80);
    const second = hand.message(0x90, 69, 80);
    expect(kinds(second)).toEqual([`transition ${CONNECTED}`, `attack ${CONNECTED}`, `attack ${STACCATO}`]);
    expect(hand.soundingKeys).toEqual([69]);
  });
  it('choose slides and new bows by velocity', () => {
    const strings = stringsOf();
    const hand = player([entry('connected', 24)], responses([], { slideBelow: 30, bowFrom: 110 }), strings);
    hand.message(0x90, 60, 80);
    expect(kinds(hand.message(0x90, 64, 30))[0]).toBe('transition 1');
    expect(kinds(hand.message(0x90, 67, 110))[0]).toBe('transition 2');
    expect(kinds(hand.message(0x90, 64, 109))[0]).toBe('transition 0');
    expect(kinds(hand.message(0x90, 67, 31))[0]).toBe('transition 0');
  });
  it('ride what a controller was learned for, along its curve, with what follows it', () => {
    const hand = player(
      [entry('long', 24)],
      responses([
        ride('dynamics', { controller: 2, high: 100 }),
        ride('vibrato', { follows: 'dynamics', high: 64 }),
      ]),
    );
    const moved = (controller: number, value: number) =>
      hand
        .message(0xb0, controller, value)
        .map(({ event }) => event.kind === 'control' && [event.controller, event.value]);
    expect(moved(2, 127)).toEqual([
      [CONTROLLER.dynamics, 100],
      [CONTROLLER.vibrato, 64],
    ]);
    // Its usual controller moves nothing any more, nor does that of what follows.
    expect([moved(1, 50), moved(77, 50)]).toEqual([[], []]);
    expect(moved(20, 7)).toEqual([[20, 7]]);
  });
  it('trim onsets, set levels by velocity, and take up an edited keymap while notes sound', () => {
    const hand = player([entry('staccato', 24), entry('long', 25)], responses([], { longVelocityDb: 12 }));
    hand.message(0xb0, CONTROLLER.onsetTrim, 127);
    const [short] = hand.message(0x90, 69, 80);
    expect(short.event.kind === 'start' && short.event.offsetSeconds).toBeCloseTo(0.06, 9);
    hand.message(0x90, 25, 80);
    const [long] = hand.message(0x90, 71, 64);
    expect(long.event.kind === 'start' && long.event.levelDb).toBeCloseTo(-6, 9);
    hand.setUp(setupOf(sines, [entry('staccato', 30), entry('long', 25)]));
    expect(hand.soundingKeys).toEqual([69, 71]);
    hand.message(0x90, 30, 80);
    expect(hand.articulation).toBe('staccato');
  });
});
