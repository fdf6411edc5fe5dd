import { describe, expect, it } from 'vitest';
import type { Instrument, Zone } from '../catalogue/index.ts';
import type { SampleAudio } from '../engine/index.ts';
import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { TempoMap, type Part } from '../music/index.ts';
import { instrumentOf, mixOf, plainZone } from '../testing/fixtures.ts';
import { setupOf } from '../testing/keymaps.ts';
import { filteringOf } from './filters.ts';
import { findingsOf, LivePlayer, planPart, soundsOf, toEvents, type PlanContext } from './index.ts';
import { Leads } from './leads.ts';
import { handOverOf } from './segment.ts';

const RATE = 48_000;
const hertz = (key: number) => 440 * 2 ** ((key - 69) / 12);
const TOUCH = { velocity: 90, dynamics: 64, vibrato: 0 };

/** Eight partials whose pitch and level are told by functions of time. */
function tones(seconds: number, pitch: (t: number) => number, level: (t: number) => number): SampleAudio {
  const frames = Math.round(seconds * RATE);
  const data = new Float32Array(frames * 2);
  let phase = 0;
  for (let i = 0; i < frames; i++) {
    const t = i / RATE;
    phase += (2 * Math.PI * pitch(t)) / RATE;
    let sum = 0;
    for (let n = 1; n <= 8; n++) sum += Math.sin(n * phase + n) / n;
    data[2 * i] = data[2 * i + 1] = 0.2 * level(t) * sum;
  }
  return { data, channels: 2, frames, rate: RATE };
}

interface Made {
  /** Seconds until the recorded move lands, and from there until it fades. */
  landing?: number;
  after?: number;
  /** Level of the move against the tones, as a factor, before and after its landing. */
  before?: number;
  beyond?: number;
  /** A stretch in which it falls to a share, in seconds. */
  dip?: readonly [number, number];
  dipTo?: number;
  root?: number;
  intervals?: number[];
  runs?: boolean;
}

function made({
  landing = 0.2,
  after = 0.3,
  before = 1,
  beyond = 1,
  dip = [0, 0],
  dipTo = 0.25,
  root = 69,
  intervals = [2, -5],
  runs = false,
}: Made = {}): { instrument: Instrument; audio: Map<string, SampleAudio> } {
  const audio = new Map<string, SampleAudio>([
    [
      'long',
      tones(
        2,
        () => hertz(69),
        (t) => Math.min(1, t / 0.05),
      ),
    ],
  ]);
  const long = plainZone({ samples: { mix: { sample: 'long' } }, loop: { start: 24_000, end: 72_000 } });
  const moves = (name: string, at: number): Zone[] =>
    intervals.map((interval) => {
      const id = `${name} ${interval}`;
      audio.set(
        id,
        tones(
          at + after + 0.1,
          (t) => (t < at ? hertz(root - interval) : hertz(root)),
          (t) =>
            (t < at ? before : beyond) *
            (t >= dip[0] && t < dip[1] ? dipTo : 1) *
            (t > at + after ? Math.max(0, 1 - (t - at - after) / 0.1) : 1),
        ),
      );
      const samples = { mix: { sample: id } };
      return plainZone({ role: 'transition', interval, rootKey: root, oneShot: true, samples });
    });
  const instrument = instrumentOf(
    [
      { id: 'connected', name: 'connected', zones: [long, ...moves('move', landing)] },
      { id: 'long', name: 'long', zones: [long] },
      ...(runs ? [{ id: 'runs', name: 'runs', zones: [long, ...moves('run', 0.06)] }] : []),
    ],
    audio,
  );
  return { instrument, audio };
}

const leadsOf = (one: Made = {}, mix: TrackMix = mixOf(['mix'])) => {
  const { instrument, audio } = made(one);
  return new Leads(instrument, mix, audio);
};
const moveOf = (one: Made, from: number, to: number) => {
  const move = leadsOf(one).move(0, from, to);
  if (!move) throw new Error('no move');
  return move;
};

describe('a recorded move as it will be heard', () => {
  it.each([0.12, 0.2, 0.35])('lands where its pitch changes (%f s), up and down', (landing) => {
    for (const interval of [2, -5])
      expect(Math.abs(moveOf({ landing }, 69 - interval, 69).leadSeconds - landing)).toBeLessThan(0.004);
  });
  it('lands sooner and lasts shorter above its root', () => {
    const [at, above] = [moveOf({}, 67, 69), moveOf({}, 73, 75)];
    expect(above.ratio).toBeCloseTo(2 ** 0.5, 6);
    expect(above.leadSeconds * 2 ** 0.5).toBeCloseTo(at.leadSeconds, 6);
    expect(above.lastsSeconds * 2 ** 0.5).toBeCloseTo(at.lastsSeconds, 6);
  });
  it.each([0.1, 0.25, 0.6])('lasts until its tone fades (%f s after its landing)', (after) => {
    // It has fallen by 2 dB a fifth of its fade of 100 ms later; the window of 80 ms rounds this off.
    const { lastsSeconds } = moveOf({ after }, 67, 69);
    expect(Math.abs(lastsSeconds - after - 0.02)).toBeLessThan(0.03);
  });
  it('is brought to the level of the tones on both sides', () => {
    const one = { before: 0.5, beyond: 2 };
    const leads = leadsOf(one);
    const move = moveOf(one, 67, 69);
    // One value every 25 ms; it lands at 0.2 s.
    const levels = leads.matched(move, 0, [0, 67], [0, 69], TOUCH);
    for (const db of levels.slice(0, 7)) expect(db).toBeCloseTo(6, 0);
    for (const db of levels.slice(9)) expect(db).toBeCloseTo(-6, 0);
    expect(levels.length).toBeGreaterThan(18);
    // Entered at 0.1 s, at the fifth value.
    const entered = leads.matched(move, 0.1, [0, 67], [0, 69], TOUCH);
    expect(entered).toHaveLength(levels.length - 4);
    entered.forEach((db, i) => expect(db).toBeCloseTo(levels[i + 4], 6));
  });
  it('is brought to a level at the pace at which it is played', () => {
    // An octave above its root all of it passes in half the time.
    const one = { before: 0.5, beyond: 2 };
    const move = moveOf(one, 79, 81);
    const levels = leadsOf(one).matched(move, 0, [0, 79], [0, 81], TOUCH);
    for (const db of levels.slice(0, 3)) expect(db).toBeCloseTo(6, 0);
    for (const db of levels.slice(5)) expect(db).toBeCloseTo(-6, 0);
  });
  it('keeps a little of what it rises and falls by itself, and no more', () => {
    // It falls to a quarter between 50 and 150 ms, and lands at 300 ms.
    const dipped = { landing: 0.3, dip: [0.05, 0.15] as const };
    const levels = leadsOf(dipped).matched(moveOf(dipped, 67, 69), 0, [0, 67], [0, 69], TOUCH);
    expect(levels[4] - levels[9]).toBeGreaterThan(8);
    expect(levels[4] - levels[9]).toBeLessThan(12);
    const shallow = { ...dipped, dipTo: 0.9 };
    const kept = leadsOf(shallow).matched(moveOf(shallow, 67, 69), 0, [0, 67], [0, 69], TOUCH);
    expect(Math.abs(kept[4] - kept[9])).toBeLessThan(0.3);
  });
  it('keeps the fall of a new bow on the same key', () => {
    const bow = { landing: 0.3, dip: [0.2, 0.3] as const, intervals: [0] };
    const levels = leadsOf(bow).matched(moveOf(bow, 69, 69), 0, [0, 69], [0, 69], TOUCH);
    expect(Math.max(...levels) - Math.min(...levels)).toBeLessThan(5);
  });
  it('is left as it is while its recordings are not here', () => {
    const { instrument } = made();
    const leads = new Leads(instrument, mixOf(['mix']));
    const move = leads.move(0, 67, 69);
    expect(move?.lastsSeconds).toBeGreaterThan(0.05);
    expect(move && leads.matched(move, 0, [0, 67], [0, 69], TOUCH)).toEqual([]);
  });
  it('is missing where none was recorded', () => {
    expect(leadsOf().move(0, 66, 69)).toBeUndefined();
    expect(leadsOf().move(0, 69, 69)).toBeUndefined();
  });
  it('is heard without what is silent, and twice as loud with a position raised by 6 dB', () => {
    const quiet: TrackMix = {
      ...mixOf(['mix']),
      positions: { mix: { ...PLAIN_POSITION, levelDb: 6 } },
    };
    const move = moveOf({}, 67, 69);
    // Tones and moves go through the same positions: nothing is to be matched.
    const levels = leadsOf({}, quiet).matched(move, 0, [0, 67], [0, 69], TOUCH);
    for (const db of levels) expect(Math.abs(db)).toBeLessThan(0.7);
  });
});

describe('the tone after a move', () => {
  it('begins when the new pitch has settled, and before the move fades', () => {
    const zone = plainZone({ samples: {} });
    const of = (lastsSeconds: number) => handOverOf({ zone, ratio: 1, leadSeconds: 0.2, lastsSeconds });
    expect(of(0.5)).toEqual({ afterSeconds: 0.05, overSeconds: 0.1 });
    expect(of(0.12).overSeconds).toBeCloseTo(0.07, 6);
    expect(of(0.12).afterSeconds).toBeCloseTo(0.05, 6);
    expect(of(0.03)).toEqual({ afterSeconds: 0.02, overSeconds: 0.02 });
  });
  it('is entered where its loop begins, at the pitch played', () => {
    const leads = leadsOf();
    expect(leads.settled(0, 69, 90)).toBeCloseTo(0.5, 6);
    expect(leads.settled(0, 81, 90)).toBeCloseTo(0.25, 6);
    expect(leads.settled(0, 57, 90)).toBeCloseTo(1, 6);
  });
});

describe('a connected line', () => {
  const contextOf = (one: Made = {}): PlanContext => {
    const { instrument, audio } = made(one);
    return {
      tempo: new TempoMap([{ tick: 0, bpm: 60 }]),
      instrument,
      audio,
      mix: mixOf(['mix']),
      mode: 'planned',
      articulation: 'connected',
    };
  };
  const line = (keys: readonly number[], ticks = 960, more: Partial<Part> = {}): Part => ({
    notes: keys.map((key, i) => ({
      id: `n${i}`,
      startTick: 960 + i * ticks,
      endTick: 960 + (i + 1) * ticks,
      key,
      velocity: 90,
    })),
    marks: [],
    points: [],
    ...more,
  });
  const gestures = (part: Part, context = contextOf()) =>
    soundsOf(planPart(part, context)).map((sound) => `${sound.noteId} ${sound.gesture}`);

  it('goes from tone to move to tone, each joined to the one before', () => {
    const sounds = soundsOf(planPart(line([67, 69]), contextOf()));
    expect(sounds.map(({ gesture, joins }) => [gesture, joins])).toEqual([
      ['attack', false],
      ['move', true],
      ['hold', true],
    ]);
    const [attack, move, hold] = sounds;
    expect(move.startSeconds + move.leads[0]).toBeCloseTo(2, 6);
    expect(attack.endSeconds).toBeCloseTo(move.startSeconds, 6);
    expect(attack.endFadeSeconds).toBeCloseTo(move.fadeInSeconds, 6);
    expect(hold.startSeconds).toBeCloseTo(2.05, 6);
    expect(move.endSeconds).toBeCloseTo(hold.startSeconds, 6);
    expect(hold.offsetSeconds).toBeCloseTo(0.5, 6);
  });
  it('tells the engine what joins what', () => {
    const plan = planPart(line([67, 69]), contextOf({ before: 0.5 }));
    const starts = toEvents(plan, 0, 0).flatMap((event) => (event.kind === 'start' ? event : []));
    expect(starts.map(({ joins }) => joins)).toEqual([undefined, starts[0].sound, starts[1].sound]);
    expect(starts[1].levelsDb?.[0]).toBeCloseTo(6, 0);
    expect(starts[0].levelsDb).toBeUndefined();
    expect(starts[1].alignSeconds ?? 1).toBeLessThan(starts[2].alignSeconds ?? 0);
  });
  it('is blended around the beat where no move was recorded, and says so', () => {
    const plan = planPart(line([66, 69]), contextOf());
    const [first, second] = soundsOf(plan);
    expect([second.gesture, second.role]).toEqual(['hold', 'attack']);
    expect(second.startSeconds + second.fadeInSeconds / 2).toBeCloseTo(2, 6);
    expect(first.endSeconds).toBeCloseTo(second.startSeconds, 6);
    expect(findingsOf(plan)).toEqual([
      {
        noteId: 'n1',
        sentence: 'Test section have no recorded move that fits from F#4 to A4 here; the tones are blended.',
      },
    ]);
  });
  it('takes the quick kind where its moves are too slow for the tempo', () => {
    const quick = contextOf({ runs: true });
    const used = (ticks: number) =>
      soundsOf(planPart(line([67, 69], ticks), quick))
        .filter(({ gesture }) => gesture === 'move')
        .map(({ articulation }) => quick.instrument.articulations[articulation].id);
    expect(used(960)).toEqual(['connected']);
    // 100 ms of room for a move of 200 ms; the quick one takes 60.
    expect(used(96)).toEqual(['runs']);
    expect(findingsOf(planPart(line([67, 69], 96), quick)).map(({ sentence }) => sentence)).toEqual([
      'Test section have no time for their whole recorded move here; their runs lead to the beat.',
    ]);
    expect(findingsOf(planPart(line([67, 69]), quick))).toEqual([]);
  });
  it('enters a move late where there is no other, and blends what is quicker still', () => {
    const [, move] = soundsOf(planPart(line([67, 69], 96), contextOf()));
    expect(move.gesture).toBe('move');
    expect(move.offsetSeconds).toBeCloseTo(move.leads[0] - 0.1, 3);
    expect(move.startSeconds - move.offsetSeconds + move.leads[0]).toBeCloseTo(move.beatSeconds, 6);
    expect(gestures(line([67, 69], 30))).toEqual(['n0 attack', 'n1 hold']);
    expect(findingsOf(planPart(line([67, 69], 96), contextOf())).map(({ sentence }) => sentence)).toEqual([
      'Test section have no time for their whole recorded move here; its later part leads to the beat.',
    ]);
    // Played at once, no move is heard whole: nothing to tell.
    expect(findingsOf(planPart(line([67, 69], 96), { ...contextOf(), mode: 'immediate' }))).toEqual([]);
  });
  it('fades with its note when that ends in the move, also where the recording plays to its end', () => {
    const part = line([67, 69]);
    const short = { ...part, notes: [part.notes[0], { ...part.notes[1], endTick: 1950 }] };
    const last = soundsOf(planPart(short, contextOf())).at(-1);
    expect([last?.gesture, last?.release]).toEqual(['move', true]);
    expect(last?.endFadeSeconds).toBeGreaterThan(0);
  });
  it('leaves the tone between two moves out when the move lasts long enough, and plays it when not', () => {
    const run = line([67, 69, 71], 192);
    expect(gestures(run, contextOf({ after: 0.5 })).filter((one) => one === 'n1 hold')).toEqual([]);
    expect(gestures(line([67, 69, 71], 480), contextOf({ after: 0.1 }))).toContain('n1 hold');
  });
  it('goes on from a long tone into connected ones, but not from a short one', () => {
    const marks = [{ id: 'm', startTick: 0, endTick: 1920, articulation: 'long' }];
    expect(gestures(line([67, 69], 960, { marks }))).toEqual(['n0 attack', 'n1 move', 'n1 hold']);
    expect(gestures(line([69, 69]))).toEqual(['n0 attack', 'n1 attack']);
  });
});

describe('starting in the middle of a held note', () => {
  const context: PlanContext = {
    tempo: new TempoMap([{ tick: 0, bpm: 60 }]),
    ...made(),
    mix: mixOf(['mix']),
    mode: 'planned',
    articulation: 'long',
  };
  const part: Part = {
    notes: [
      { id: 'held', startTick: 960, endTick: 5 * 960, key: 69, velocity: 90 },
      { id: 'over', startTick: 0, endTick: 960, key: 71, velocity: 90 },
    ],
    marks: [],
    points: [{ id: 'p', controller: 1, tick: 0, value: 99 }],
  };
  it('sounds it from where it has come, with the curves as they stand', () => {
    const plan = planPart(part, context);
    const events = toEvents(plan, 0, 3);
    const starts = events.flatMap((event) => (event.kind === 'start' ? event : []));
    expect(starts.map(({ key }) => key)).toEqual([69]);
    const [{ frame, offsetSeconds, fadeInSeconds }] = starts;
    const sound = soundsOf(plan).find(({ noteId }) => noteId === 'held');
    expect(frame).toBe(0);
    expect(offsetSeconds).toBeCloseTo(3 - (sound?.startSeconds ?? 0), 6);
    expect(fadeInSeconds).toBeGreaterThan(0);
    expect(events.find((event) => event.kind === 'control')).toMatchObject({ frame: 0, value: 99 });
    expect(events.find((event) => event.kind === 'stop')).toMatchObject({ frame: 2 * RATE });
  });
});

describe('a filter at a touch', () => {
  const zone = plainZone({
    samples: {},
    cutoffHz: 1000,
    modulations: [{ controller: 1, target: 'cutoffCents', depth: 2400 }],
  });
  it('halves the power at its cutoff, and follows dynamics', () => {
    const closed = filteringOf(zone, { ...TOUCH, dynamics: 0 });
    expect(closed?.cutoffHz).toBeCloseTo(1000, 6);
    expect(closed?.power(1000)).toBeCloseTo(0.5, 6);
    // Two poles: 12 dB an octave.
    expect(10 * Math.log10(closed?.power(8000) ?? 1)).toBeCloseTo(-36.1, 0);
    expect(filteringOf(zone, { ...TOUCH, dynamics: 127 })?.cutoffHz).toBeCloseTo(4000, 3);
  });
  it('of one pole falls by 6 dB an octave; open ones are none', () => {
    const one = filteringOf({ ...zone, filter: 'lowpass1' }, { ...TOUCH, dynamics: 0 });
    expect(one?.power(1000)).toBeCloseTo(0.5, 6);
    expect(10 * Math.log10(one?.power(8000) ?? 1)).toBeCloseTo(-18.1, 0);
    expect(filteringOf(plainZone({ samples: {} }), TOUCH)).toBeUndefined();
    expect(filteringOf({ ...zone, filter: 'highpass2' }, TOUCH)).toBeUndefined();
    expect(filteringOf({ ...zone, cutoffHz: 19_500 }, TOUCH)).toBeUndefined();
  });
});

describe('a plan', () => {
  const short = (sample: string, take: number): Zone =>
    plainZone({ samples: { mix: { sample } }, take, takes: 3, oneShot: true, keyLow: 48, keyHigh: 80 });
  const audio = new Map<string, SampleAudio>(
    [0.004, 0.03, 0.06].map((late, take) => [
      `short ${take}`,
      tones(
        0.4,
        () => hertz(69),
        (t) => (t < late ? 0 : Math.exp(-(t - late) / 0.1)),
      ),
    ]),
  );
  const instrument = instrumentOf(
    [{ id: 'staccato', name: 'staccato', zones: [0, 1, 2].map((take) => short(`short ${take}`, take)) }],
    audio,
  );
  const context: PlanContext = {
    tempo: new TempoMap([{ tick: 0, bpm: 60 }]),
    instrument,
    audio,
    mix: mixOf(['mix']),
    mode: 'planned',
    articulation: 'staccato',
  };
  const repeated = Array.from({ length: 24 }, (_, i) => ({
    id: `r${i}`,
    startTick: 960 + i * 480,
    endTick: 960 + i * 480 + 240,
    key: 60,
    velocity: 90,
  }));

  it('never plays one take twice on a key, and starts each by its own lead', () => {
    const sounds = soundsOf(planPart({ notes: repeated, marks: [], points: [] }, context));
    sounds.forEach((sound, i) => {
      if (i > 0) expect(sound.take).not.toBe(sounds[i - 1].take);
      expect(sound.startSeconds).toBeCloseTo(sound.beatSeconds - sound.leads[sound.take], 9);
    });
    expect(new Set(sounds.map(({ take }) => take)).size).toBe(3);
    expect(sounds[0].leads[2] - sounds[0].leads[0]).toBeCloseTo(0.056 / 2 ** (-9 / 12), 2);
  });
  it('remembers the last take of each key apart', () => {
    const two = repeated.map((note, i) => ({ ...note, key: i % 2 === 0 ? 60 : 67 }));
    const sounds = soundsOf(planPart({ notes: two, marks: [], points: [] }, context));
    for (let i = 2; i < sounds.length; i++) expect(sounds[i].take).not.toBe(sounds[i - 2].take);
    // Keys do not hinder each other: a take may follow itself on another key.
    expect(sounds.some((sound, i) => i > 0 && sound.take === sounds[i - 1].take)).toBe(true);
  });
  it('does not depend on the order in which notes and marks come', () => {
    const marks = [
      { id: 'a', startTick: 0, endTick: 4000, articulation: 'staccato' },
      { id: 'b', startTick: 4000, endTick: 20_000, articulation: 'pizzicato' },
    ];
    const forwards = planPart({ notes: repeated, marks, points: [] }, context);
    const backwards = planPart(
      { notes: [...repeated].reverse(), marks: [...marks].reverse(), points: [] },
      context,
    );
    expect(soundsOf(backwards)).toEqual(soundsOf(forwards));
    expect(findingsOf(backwards)).toEqual(findingsOf(forwards));
    expect(findingsOf(forwards)[0].sentence).toBe('Test section have no pizzicato; staccato stands in.');
  });
  it('says what has no recording', () => {
    const notes = [{ ...repeated[0], key: 90 }];
    const plan = planPart({ notes, marks: [], points: [] }, context);
    expect(findingsOf(plan)).toEqual([
      { noteId: 'r0', sentence: 'This key has no recording in Test section; it stays silent.' },
    ]);
  });
  it('leaves out what is over before the start, and begins what is due', () => {
    const plan = planPart({ notes: repeated, marks: [], points: [] }, context);
    const keys = toEvents(plan, 0, 7).filter((event) => event.kind === 'start');
    // Notes begin at 1 s, every half second, and last a quarter: from 7 s on there are twelve.
    expect(keys).toHaveLength(12);
    expect(toEvents(plan, 0, 100).filter((event) => event.kind === 'start')).toEqual([]);
  });
});

describe('connected notes played by hand', () => {
  const play = (one: Made = {}) => {
    const { instrument, audio } = made(one);
    const player = new LivePlayer(instrument, 0, setupOf(instrument), 'connected', mixOf(['mix']), audio);
    const [first] = player.noteOn(67, 90);
    return { player, first, events: player.noteOn(69, 90) };
  };
  const startsOf = (events: ReturnType<LivePlayer['noteOn']>) =>
    events.flatMap(({ event, afterSeconds }) => (event.kind === 'start' ? [{ ...event, afterSeconds }] : []));

  it('go over the recorded move, as loud as the tones beside it, into the settled tone', () => {
    const { first, events } = play({ before: 0.5 });
    const [move, hold] = startsOf(events);
    expect([move.role, move.fromKey, move.key, move.afterSeconds]).toEqual(['transition', 67, 69, 0]);
    expect(move.joins).toBe(first.event.kind === 'start' ? first.event.sound : -1);
    // 40 ms before its landing it is still the old tone, 75 ms later the new one.
    expect(move.levelsDb?.[0]).toBeCloseTo(6, 0);
    expect(move.levelsDb?.[3]).toBeCloseTo(0, 0);
    // The move is entered shortly before its landing: 0.2 s less 40 ms.
    expect(move.offsetSeconds).toBeCloseTo(0.16, 2);
    expect(hold.joins).toBe(move.sound);
    expect(hold.offsetSeconds).toBeCloseTo(0.5, 6);
    expect(hold.afterSeconds).toBeCloseTo(0.04 + 0.05, 6);
    const stops = events.filter(({ event }) => event.kind === 'stop' && event.sound === move.sound);
    expect(stops[0].afterSeconds).toBeCloseTo(hold.afterSeconds, 9);
  });
  it('follow dynamics as the hand has set them', () => {
    const { instrument, audio } = made({ before: 0.5 });
    for (const zone of instrument.articulations[0].zones)
      if (zone.role === 'attack') zone.modulations = [{ controller: 1, target: 'gainDb', depth: 12 }];
    const player = new LivePlayer(instrument, 0, setupOf(instrument), 'connected', mixOf(['mix']), audio);
    const gainAt = (dynamics: number) => {
      player.message(0xb0, 1, dynamics);
      player.noteOn(67, 90);
      const [move] = startsOf(player.noteOn(69, 90));
      player.allOff();
      return move.levelsDb?.[0] ?? 0;
    };
    expect(gainAt(127) - gainAt(0)).toBeCloseTo(12, 1);
  });
  it('begin anew where no move was recorded', () => {
    const { instrument, audio } = made();
    const player = new LivePlayer(instrument, 0, setupOf(instrument), 'connected', mixOf(['mix']), audio);
    player.noteOn(60, 90);
    expect(startsOf(player.noteOn(69, 90)).map(({ role, joins }) => [role, joins])).toEqual([
      ['attack', undefined],
    ]);
  });
});
