import { describe, expect, it } from 'vitest';
import { PLAIN_POSITION, type PositionMix } from '../mixing/index.ts';
import { instrumentOf, mixOf, plainZone, sine, startEvent } from '../testing/fixtures.ts';
import { Engine, POSITION_LEVEL, prepareInstrument, type EngineEvent, type SampleAudio } from './index.ts';

/** What is done to one position of a track: its tone, its delay between frames, and what of it goes to the hall. */

const RATE = 48_000;
const LOW_HZ = 300;
const HIGH_HZ = 3000;

type Change = Partial<PositionMix>;

/** A track with a low sine in position a and a high one in b. */
function track(changes: { a?: Change; b?: Change }, hallSendDb = -60, moves: readonly EngineEvent[] = []) {
  const audio = new Map<string, SampleAudio>([
    ['low', sine(LOW_HZ, 3, 0.2, 0.001)],
    ['high', sine(HIGH_HZ, 3, 0.2, 0.001)],
  ]);
  const zone = plainZone({ samples: { a: { sample: 'low' }, b: { sample: 'high' } } });
  const instrument = instrumentOf([{ id: 'long', name: 'long', zones: [zone] }], audio, ['a', 'b']);
  const engine = new Engine(4);
  engine.ensureTracks(1);
  engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
  // A hall that gives back at once what it is sent: its answer is the send.
  const pulse = Float32Array.of(1, 0, 0, 0);
  engine.setHall({ left: pulse, right: pulse, earlyFrames: 4 });
  const set = (next: { a?: Change; b?: Change }) =>
    engine.tracks[0].setMix(
      {
        ...mixOf([]),
        hallSendDb,
        positions: { a: { ...PLAIN_POSITION, ...next.a }, b: { ...PLAIN_POSITION, ...next.b } },
      },
      RATE,
    );
  set(changes);
  engine.reset();
  engine.setEvents([
    ...moves.filter(({ frame }) => frame === 0),
    startEvent({}),
    ...moves.filter(({ frame }) => frame > 0),
  ]);
  const play = (seconds: number) => {
    const blocks = Math.round((seconds * RATE) / 128);
    const [left, right] = [new Float32Array(blocks * 128), new Float32Array(blocks * 128)];
    for (let b = 0; b < blocks; b++)
      engine.renderMix(left.subarray(b * 128, (b + 1) * 128), right.subarray(b * 128, (b + 1) * 128));
    return left;
  };
  return { play, set, engine };
}

/** Amplitude and phase of a frequency in a stretch, by its sums with sine and cosine over whole periods. */
function tone(wave: Float32Array, hz: number, from: number, frames: number) {
  let [re, im] = [0, 0];
  for (let i = 0; i < frames; i++) {
    const angle = (2 * Math.PI * hz * (from + i)) / RATE;
    re += wave[from + i] * Math.sin(angle);
    im += wave[from + i] * Math.cos(angle);
  }
  return { amplitude: (2 * Math.hypot(re, im)) / frames, phase: Math.atan2(im, re) };
}
const db = (ratio: number) => 20 * Math.log10(ratio);
const WINDOW = 4800;

/** The steepest bend of a wave: a click has one that its sines do not. */
const bend = (wave: Float32Array, from = 2) =>
  wave.reduce(
    (most, value, i) => (i < from ? most : Math.max(most, Math.abs(value - 2 * wave[i - 1] + wave[i - 2]))),
    0,
  );

describe('the tone of a position', () => {
  const peak = { shape: 'peak' as const, q: 1, gainDb: -9 };
  it('changes that position and no other', () => {
    const plain = track({}).play(0.5);
    const cut = track({ a: { eq: [{ ...peak, hertz: LOW_HZ }] } }).play(0.5);
    const change = (hz: number) =>
      db(tone(cut, hz, 14_400, WINDOW).amplitude / tone(plain, hz, 14_400, WINDOW).amplitude);
    expect(change(LOW_HZ)).toBeCloseTo(-9, 1);
    expect(change(HIGH_HZ)).toBeCloseTo(0, 1);
    // The same band in the other position would hardly touch it: 300 Hz is far from 3 kHz.
    const other = track({ b: { eq: [{ ...peak, hertz: LOW_HZ }] } }).play(0.5);
    expect(db(tone(other, LOW_HZ, 14_400, WINDOW).amplitude / 0.2)).toBeCloseTo(0, 1);
  });
  it('glides there and back without a click', () => {
    const moved = track({});
    moved.play(0.2);
    moved.set({ a: { eq: [{ ...peak, hertz: LOW_HZ, gainDb: 9 }] } });
    const up = moved.play(0.2);
    moved.set({});
    const back = moved.play(0.2);
    const steady = bend(track({}).play(0.2));
    expect(bend(up)).toBeLessThan(steady * 1.2);
    expect(bend(back)).toBeLessThan(steady * 1.2);
    expect(tone(up, LOW_HZ, 4800, WINDOW).amplitude).toBeCloseTo(0.2 * 10 ** (9 / 20), 2);
    expect(tone(back, LOW_HZ, 4800, WINDOW).amplitude).toBeCloseTo(0.2, 3);
  });
});

describe('a delay between frames', () => {
  it.each([0.5, 2.005, 5.4, 33.333])('of %s ms turns the phase by as much', (delayMs) => {
    const from = 14_400;
    const plain = tone(track({ b: { muted: true } }).play(0.5), LOW_HZ, from, WINDOW);
    const late = tone(track({ a: { delayMs }, b: { muted: true } }).play(0.5), LOW_HZ, from, WINDOW);
    const turned = (plain.phase - late.phase) / (2 * Math.PI * LOW_HZ);
    const periods = Math.round((delayMs / 1000 - turned) * LOW_HZ);
    // Within a fiftieth of a frame: 0.4 µs.
    expect(Math.abs(turned + periods / LOW_HZ - delayMs / 1000)).toBeLessThan(4e-7);
    expect(db(late.amplitude / plain.amplitude)).toBeCloseTo(0, 2);
  });
  it('leaves treble its level', () => {
    const high = tone(
      track({ a: { muted: true }, b: { delayMs: 3.0104 } }).play(0.5),
      HIGH_HZ,
      14_400,
      WINDOW,
    );
    expect(Math.abs(db(high.amplitude / 0.2))).toBeLessThan(0.1);
  });
  it('moves without a click', () => {
    const moved = track({ a: { delayMs: 4 }, b: { muted: true } });
    moved.play(0.2);
    moved.set({ a: { delayMs: 4.37 }, b: { muted: true } });
    expect(bend(moved.play(0.1))).toBeLessThan(bend(track({ b: { muted: true } }).play(0.2)) * 1.5);
  });
});

describe('what of a position goes to the hall', () => {
  const heard = (changes: { a?: Change; b?: Change }) => {
    const wave = track(changes, 0).play(0.5);
    return [LOW_HZ, HIGH_HZ].map((hz) => db(tone(wave, hz, 14_400, WINDOW).amplitude / 0.2));
  };
  it('is the same as of the rest unless said otherwise', () => {
    const [low, high] = heard({});
    expect([low, high].map((one) => one.toFixed(1))).toEqual(['6.0', '6.0']);
  });
  it('is less or nothing, while what is heard of it directly stays', () => {
    const [low, high] = heard({ b: { sendDb: -60 } });
    expect(low).toBeCloseTo(6.02, 1);
    expect(high).toBeCloseTo(0, 1);
    expect(heard({ a: { sendDb: -6.0206 } })[0]).toBeCloseTo(db(1.5), 1);
  });
  it('is no more than the track sends', () => {
    const wave = track({ a: { sendDb: 6 } }, -60).play(0.5);
    expect(db(tone(wave, LOW_HZ, 14_400, WINDOW).amplitude / 0.2)).toBeCloseTo(0, 1);
  });
  it('has the tone of the track as well, and glides', () => {
    const moved = track({}, 0);
    moved.play(0.2);
    moved.set({ b: { sendDb: -60 } });
    const over = moved.play(0.2);
    expect(bend(over)).toBeLessThan(bend(track({}, 0).play(0.2)) * 1.05);
    expect(db(tone(over, HIGH_HZ, 4800, WINDOW).amplitude / 0.2)).toBeCloseTo(0, 1);
    moved.set({});
    expect(db(tone(moved.play(0.4), HIGH_HZ, 14_400, WINDOW).amplitude / 0.2)).toBeCloseTo(6.02, 1);
  });
});

describe('the level of a position that moves', () => {
  const level = (position: number, seconds: number, value: number): EngineEvent => ({
    kind: 'control',
    frame: Math.round(seconds * RATE),
    track: 0,
    controller: POSITION_LEVEL + position,
    value,
  });
  const change = (wave: Float32Array, hz: number, from: number) =>
    db(tone(wave, hz, from, WINDOW).amplitude / 0.2);

  it('is added to that of the mix, for that position and its send alone, and leaves the mix as it is', () => {
    const { play, set } = track({ a: { levelDb: -6 } }, -60, [level(0, 0, 4), level(0, 0.5, -10)]);
    const wave = play(1);
    expect(change(wave, LOW_HZ, 9600)).toBeCloseTo(-2, 1);
    expect(change(wave, LOW_HZ, 33_600)).toBeCloseTo(-16, 1);
    expect(change(wave, HIGH_HZ, 33_600)).toBeCloseTo(0, 1);
    // The mix is moved under it.
    set({ a: { levelDb: 0 } });
    expect(change(play(0.5), LOW_HZ, 9600)).toBeCloseTo(-10, 1);
  });

  it('begins where it stands, and glides from there without a click', () => {
    const wave = track({}, -60, [level(0, 0, -12)]).play(0.3);
    // From the first hundredth of a second on.
    expect(db(tone(wave, LOW_HZ, 0, 480).amplitude / 0.2)).toBeLessThan(-11);
    const steps = Array.from({ length: 50 }, (_, i) => level(0, 0.1 + i * 0.01, -0.5 * i));
    const ridden = track({}, -60, steps).play(1);
    expect(change(ridden, LOW_HZ, 40_000)).toBeCloseTo(-24.5, 1);
    expect(bend(ridden)).toBeLessThan(1.02 * bend(track({}).play(1)));
  });

  it('may be silence and come back, and is forgotten when everything begins anew', () => {
    const { play, engine } = track({}, -60, [level(0, 0.2, -60), level(0, 0.6, 0)]);
    const wave = play(1);
    expect(change(wave, LOW_HZ, 19_200)).toBeLessThan(-100);
    expect(change(wave, LOW_HZ, 38_400)).toBeCloseTo(0, 1);
    engine.tracks[0].setControl(POSITION_LEVEL, -20);
    engine.tracks[0].restControllers();
    engine.reset();
    engine.setEvents([startEvent({})]);
    expect(change(play(0.5), LOW_HZ, 9600)).toBeCloseTo(0, 1);
    // A position it does not have is passed over.
    engine.tracks[0].setControl(POSITION_LEVEL + 7, -20);
  });
});
