import { describe, expect, it } from 'vitest';
import { TempoMap, type Part } from '../music/index.ts';
import { planPart } from '../performance/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { keymapOf } from '../testing/keymaps.ts';
import { ownSoundMemory, sortEvents, type EngineEvent } from '../engine/index.ts';
import { encodeFrames } from '../formats/index.ts';
import {
  bounce,
  cleanMidi,
  divide,
  engineFor,
  performedMidi,
  playedTracks,
  StretchCoder,
  Stretches,
  STRETCH_FRAMES,
  type BounceOrder,
} from './index.ts';
import { toEvents } from '../performance/index.ts';

const { instrument, audio } = sineInstrument();
const tempo = new TempoMap([{ tick: 0, bpm: 120 }]);
const mix = mixOf(['mix']);
const part: Part = {
  notes: [
    { id: 'a', startTick: 0, endTick: 960, key: 67, velocity: 80 },
    { id: 'b', startTick: 960, endTick: 1920, key: 69, velocity: 90 },
    { id: 'c', startTick: 3840, endTick: 4000, key: 69, velocity: 100 },
  ],
  marks: [{ id: 'm', startTick: 3840, endTick: 5000, articulation: 'staccato' }],
  points: [
    { id: 'p', controller: 1, tick: 0, value: 40 },
    { id: 'q', controller: 1, tick: 1920, value: 100 },
  ],
};
const plan = planPart(part, { tempo, instrument, mix, mode: 'planned', articulation: 'connected' });
const facts = {
  tempos: [{ tick: 0, bpm: 120 }],
  metres: [{ tick: 0, numerator: 4, denominator: 4 }],
  keys: [],
  markers: [],
};
const keymap = keymapOf({ connected: 25, staccato: 26 });

describe('MIDI out', () => {
  it('clean has the notes as written and articulations as text', () => {
    const [track] = cleanMidi(facts, [{ name: 'V', part }], tempo).tracks;
    expect(track.notes.map((n) => [n.startTick, n.endTick, n.key])).toEqual([
      [0, 960, 67],
      [960, 1920, 69],
      [3840, 4000, 69],
    ]);
    expect(track.texts).toEqual([{ tick: 3840, text: 'staccato' }]);
    expect(track.controls.length).toBeGreaterThan(50);
  });
  it('performed has keyswitches first, notes ahead by their leads, connected notes overlapping, a bar later', () => {
    const [track] = performedMidi(facts, [{ name: 'V', part, plan, keymap }], tempo).tracks;
    const switches = track.notes.filter((n) => n.key < 30);
    const notes = track.notes.filter((n) => n.key > 30);
    expect(switches.map((n) => n.key)).toEqual([26]);
    // What holds from the beginning needs no switch.
    expect(switches[0].startTick).toBeLessThan(notes[2].startTick);
    expect(switches[0].startTick).toBeGreaterThan(notes[1].startTick);
    expect(notes[0].startTick).toBeLessThan(3840);
    expect(notes[0].startTick).toBeGreaterThan(3840 - 960);
    // 0.15 s of lead at 120 bpm are 288 ticks.
    expect(Math.abs(notes[1].startTick - (3840 + 960 - 288))).toBeLessThan(3);
    expect(notes[0].endTick).toBeGreaterThan(notes[1].startTick);
  });
});

describe('bounce', () => {
  /** What is written goes in stretches of 64 blocks of 128 frames. */
  const STRETCH = 8192;
  const hall = { left: new Float32Array([0.5]), right: new Float32Array([0.5]), earlyFrames: 0 };
  const run = (endFrame: number, events = toEvents(plan, 0, -0.5)) => {
    const left: number[] = [];
    const right: number[] = [];
    const shares: number[] = [];
    const figures = bounce(
      {
        instruments: [{ instrument, audio }],
        tracks: [
          { instrumentId: 'test', mix },
          { instrumentId: null, mix },
        ],
        hall,
        hallMix: { earlyDb: 0, tailDb: 0 },
        events,
        endFrame,
      },
      (l, r) => {
        left.push(...l);
        right.push(...r);
      },
      (share) => shares.push(share),
    );
    return { left, right, shares, figures };
  };
  it('renders until the tail is silent, tells its loudness, and is repeatable', () => {
    const { left, shares, figures } = run(48000 * 3);
    expect(left.length).toBe(figures.frames);
    // The last note, 0.3 s long, begins at 2.5 s and so ends in the 17th stretch; two silent ones hold a quarter of a second.
    expect(figures.frames).toBe(19 * STRETCH);
    expect(figures.integratedLufs).toBeGreaterThan(-30);
    expect(shares.length).toBe(19);
    expect(shares[0]).toBeCloseTo(STRETCH / 144000, 9);
    expect(shares.at(-1)).toBe(1);
    expect(run(48000 * 3).left).toEqual(left);
  });
  it('goes on while anything sounds on either side, then for a quarter of a second', () => {
    const { left, right, figures } = run(48000 * 2.6);
    const loudest = (from: number, to: number) =>
      Math.max(...[left, right].flatMap((side) => side.slice(from, to).map(Math.abs)));
    // Two stretches are the first whole ones that hold 12,000 frames.
    const silentFrom = figures.frames - 2 * STRETCH;
    expect(silentFrom).toBeGreaterThan(48000 * 2);
    expect(loudest(silentFrom, figures.frames)).toBeLessThanOrEqual(1e-5);
    expect(loudest(silentFrom - STRETCH, silentFrom)).toBeGreaterThan(1e-5);
  });
  it('is as long as asked where nothing sounds, and cuts what never ends after twelve seconds', () => {
    expect(run(0, []).figures.frames).toBe(2 * STRETCH);
    expect(run(3 * STRETCH, []).figures.frames).toBe(3 * STRETCH);
    expect(run(3 * STRETCH, []).shares).toEqual([1 / 3, 2 / 3, 1].map((share) => expect.closeTo(share, 9)));
    const endless = toEvents(plan, 0, -0.5).filter(({ kind }) => kind !== 'stop');
    const { frames } = run(48000, endless).figures;
    // 48,000 + 576,000 frames are 76.2 stretches.
    expect(frames).toBe(77 * STRETCH);
  });
  it('is the same bit for bit with one, two, three and five shares, and its stems add up to it', () => {
    const held = (track: number) =>
      toEvents(plan, track, -0.5 - track * 0.21).map((event) =>
        event.kind === 'start' ? { ...event, key: event.key - track } : event,
      );
    const order: BounceOrder = {
      instruments: [{ instrument, audio }],
      tracks: [0, 1, 2, 3, 4].map((i) => ({
        instrumentId: 'test',
        mix: { ...mix, gainDb: -3 * i, hallSendDb: -9 },
      })),
      hall: { left: new Float32Array([0.5, 0.2]), right: new Float32Array([0.4, 0.1]), earlyFrames: 1 },
      hallMix: { earlyDb: 0, tailDb: 0 },
      events: sortEvents([0, 1, 3, 4].flatMap(held)),
      endFrame: 48_000 * 4,
    };
    const made = (shares: number, from = order) => {
      const left: number[] = [];
      bounce(
        from,
        (l) => left.push(...l),
        () => undefined,
        undefined,
        shares,
      );
      return left;
    };
    const whole = made(1);
    for (const shares of [2, 3, 5]) expect(made(shares)).toEqual(whole);
    // Live, the engine does it block by block.
    const engine = engineFor(order);
    const [left, right] = [new Float32Array(whole.length), new Float32Array(128)];
    for (let at = 0; at < left.length; at += 128) engine.renderMix(left.subarray(at, at + 128), right);
    expect([...left]).toEqual(whole);
    // Without a hall nothing is shared: the sum of the tracks alone, in 32 bits and in their order, is the mix.
    const dry = { ...order, hall: null };
    const alone = [0, 1, 3, 4].map((track) => made(1, { ...dry, events: held(track) }));
    const mixed = made(2, dry);
    const sum = new Float32Array(mixed.length);
    for (const one of alone) for (let i = 0; i < sum.length; i++) sum[i] += one[i] ?? 0;
    expect([...sum]).toEqual(mixed);
  });
});

describe('shares of a bounce', () => {
  const start = (track: number, sound: number, frame: number): EngineEvent => ({
    kind: 'start',
    frame,
    track,
    sound,
    articulation: 0,
    role: 'attack',
    key: 60,
    velocity: 90,
    fromKey: 0,
    take: 0,
    offsetSeconds: 0,
    fadeInSeconds: 0,
  });
  const order = (lengths: number[]): BounceOrder => ({
    instruments: [],
    tracks: lengths.map(() => ({ instrumentId: null, mix })),
    hall: null,
    hallMix: { earlyDb: 0, tailDb: 0 },
    events: sortEvents(
      lengths.flatMap((length, track): EngineEvent[] =>
        length === 0
          ? [{ kind: 'control', frame: 0, track, controller: 1, value: 3 }]
          : [
              start(track, 1, 0),
              { kind: 'stop', frame: length, track, sound: 1, fadeSeconds: 0, release: false },
            ],
      ),
    ),
    endFrame: 0,
  });
  it('leave out tracks on which nothing plays', () => {
    expect(playedTracks(order([5, 0, 7]))).toEqual([0, 2]);
  });
  it('are coded as whole numbers of 24 bits or as they are', () => {
    const sound = ownSoundMemory();
    const address = sound.allocateClear(Stretches.bytes(2));
    const places = new Stretches(address, [3, 8]);
    const frames = sound.floats(places.sound(8, 1), 2 * STRETCH_FRAMES);
    const edges = [0, 1, -1, 1.5, -1.5, 0.5 / 8388608, -0.5 / 8388608, 1.5 / 8388608, 0.1, -0.7];
    for (let i = 0; i < frames.length; i++) frames[i] = edges[i] ?? Math.sin(i * i) * 1.1;
    const channels = [0, 1].map((c) =>
      Float32Array.from({ length: STRETCH_FRAMES }, (_, i) => frames[2 * i + c]),
    );
    for (const format of ['i24', 'f32'] as const)
      expect(
        Buffer.compare(
          new StretchCoder(places, sound, format).code(8, 1),
          encodeFrames(channels, format, 0, STRETCH_FRAMES),
        ),
      ).toBe(0);
    sound.release(address);
  });
  it('are about equal in what their sounds last', () => {
    const one = order([100, 900, 300, 500, 200]);
    expect(divide(one, playedTracks(one), 2)).toEqual([
      [0, 1],
      [2, 3, 4],
    ]);
    expect(divide(one, playedTracks(one), 9)).toHaveLength(5);
    expect(divide(one, [], 3)).toEqual([[]]);
  });
});
