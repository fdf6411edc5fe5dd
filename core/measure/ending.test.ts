import { describe, expect, it } from 'vitest';
import { whiteNoise } from '../testing/fixtures.ts';
import { endingOf, heardOf, isLostInHiss, powerEvery5ms, withoutNoise } from './index.ts';

/**
 * Sounds that are held for a second and let go in rooms whose decay and share are known. What a room has of a sound is summed up here
 * step by step of a tenth of a millisecond, over its own exponential.
 */

const RATE = 48_000;
const FINE = 50;
const STEP_SECONDS = 0.005;
const HELD_STEPS = 200;

/** Share of the sound's power that is left while it is let go, 0 … 1 of the way. */
const SHAPES = {
  'at once': () => 0,
  straight: (x: number) => (1 - x) ** 2,
  round: (x: number) => Math.cos((Math.PI * x) / 2) ** 2,
};

interface Order {
  decaySeconds?: number;
  fallSeconds?: number;
  shape?: keyof typeof SHAPES;
  /** Direct sound against the room of each position. */
  directDb?: readonly number[];
  steps?: number;
  /** Step from which it is faded out within 150 ms. */
  fadesFrom?: number;
  noiseDb?: number;
  /** It was held long before. */
  isHeld?: boolean;
}

function recorded({
  decaySeconds = 1,
  fallSeconds = 0.06,
  shape = 'round',
  directDb = [9, 2],
  steps = 500,
  fadesFrom = Infinity,
  noiseDb = -200,
  isHeld = true,
}: Order): Float64Array[] {
  const fine = STEP_SECONDS / FINE;
  const perFine = 10 ** ((-6 * fine) / decaySeconds);
  const played = new Float64Array(steps);
  const room = new Float64Array(steps);
  let full = isHeld ? 1 : 0;
  for (let n = 0; n < steps; n++)
    for (let i = 0; i < FINE; i++) {
      const past = (n - HELD_STEPS) * STEP_SECONDS + i * fine;
      const sound = past < 0 ? 1 : past < fallSeconds ? SHAPES[shape](past / fallSeconds) : 0;
      full = perFine * full + (1 - perFine) * sound;
      played[n] += sound / FINE;
      room[n] += full / FINE;
    }
  return directDb.map((db) =>
    played.map((sound, n) => {
      const fade = Math.min(1, Math.max(1e-5, 1 - ((n - fadesFrom) * STEP_SECONDS) / 0.15)) ** 2;
      return (10 ** (db / 10) * sound + room[n]) * fade + 10 ** (noiseDb / 10);
    }),
  );
}

/** As a report sees it: over while it still stands within 4 dB of its height. */
function told(order: Order) {
  const powers = recorded(order);
  let over = powers[0].length - 1;
  while (powers[0][over] < 0.4 * powers[0][HELD_STEPS - 1]) over--;
  const ending = endingOf(powers, over + 1);
  if (!ending) throw new Error('nothing dies away');
  const heard = heardOf(powers, over + 1, ending, order.isHeld ?? true);
  return { ending, ratiosDb: heard.map(({ direct, room }) => 10 * Math.log10(direct / room)) };
}

describe('how a sound ends in a room', () => {
  it.each([
    ['at once', 0, 1],
    ['at once', 0, 0.3],
    ['straight', 0.03, 0.6],
    ['straight', 0.09, 1.2],
    ['round', 0.05, 0.8],
    ['round', 0.1, 1.6],
  ] as const)('that is let go %s in %s s, dying away in %s s', (shape, fallSeconds, decaySeconds) => {
    const directDb = [10, 3, -4];
    const { ending, ratiosDb } = told({ shape, fallSeconds, decaySeconds, directDb });
    expect(ending.standsOut).toBe(true);
    expect(ending.isFaded).toBe(false);
    const seconds = (-6 * STEP_SECONDS) / Math.log10(ending.keeps);
    expect(Math.abs(seconds / decaySeconds - 1)).toBeLessThan(0.08);
    ratiosDb.forEach((db, i) => expect(Math.abs(db - directDb[i]), `${directDb[i]} dB`).toBeLessThan(1));
  });
  it.each([-3, 0, 6, 12])(
    'with direct sound %s dB over the room is heard in noise within 1 dB',
    (planted) => {
      // Noise for a second, its own room convolved: a decay that starts with the sound and outlasts it.
      const t60 = 1.2;
      const source = whiteNoise(RATE, 11);
      const out = new Float32Array(3 * RATE);
      out.set(source);
      // The room of steady noise is noise of constant power that has filled up, then falls.
      const room = whiteNoise(3 * RATE, 23);
      const part = 10 ** (-planted / 20);
      for (let i = 0; i < out.length; i++) {
        const filled = 1 - 10 ** ((-6 * Math.min(i, RATE)) / RATE / t60);
        const fall = i < RATE ? 1 : 10 ** ((-6 * (i - RATE)) / RATE / t60);
        out[i] += part * Math.sqrt(filled * fall) * room[i];
      }
      const power = powerEvery5ms([out], RATE, 0, out.length);
      const ending = endingOf([power], 200);
      const [{ direct, room: full }] = heardOf(
        [power],
        200,
        ending ?? { ended: 0, until: 0, keeps: 1 },
        false,
      );
      const heard = 10 * Math.log10(direct / full);
      expect(Math.abs(heard - planted)).toBeLessThan(1);
    },
  );
  it('is known of a sound that had not filled it', () => {
    const { ratiosDb } = told({ isHeld: false, decaySeconds: 3, fallSeconds: 0.01 });
    expect(Math.abs(ratiosDb[0] - 9)).toBeLessThan(1);
    expect(Math.abs(ratiosDb[1] - 2)).toBeLessThan(1);
  });
  it('is told by one position alone', () => {
    for (const db of [8, 3, 0]) {
      const { ratiosDb } = told({ directDb: [db], fallSeconds: 0.04 });
      expect(Math.abs(ratiosDb[0] - db)).toBeLessThan(1);
    }
  });
  it('ends where it was faded out, and is told as before', () => {
    const { ending, ratiosDb } = told({ fadesFrom: HELD_STEPS + 80, steps: HELD_STEPS + 110 });
    expect(ending.isFaded).toBe(true);
    expect(Math.abs(ending.until - HELD_STEPS - 80)).toBeLessThan(12);
    const seconds = (-6 * STEP_SECONDS) / Math.log10(ending.keeps);
    expect(Math.abs(seconds - 1)).toBeLessThan(0.15);
    expect(Math.abs(ratiosDb[0] - 9)).toBeLessThan(1.5);
    expect(Math.abs(ratiosDb[1] - 2)).toBeLessThan(1.5);
  });
  it('that sinks into noise was not faded out', () => {
    const { ending } = told({ noiseDb: -25 });
    expect(ending.isFaded).toBe(false);
    const seconds = (-6 * STEP_SECONDS) / Math.log10(ending.keeps);
    expect(Math.abs(seconds - 1)).toBeLessThan(0.1);
  });
});

describe('what does not end so', () => {
  it('is nothing where the room has hardly fallen before the recording ends', () => {
    const order = { decaySeconds: 10, fallSeconds: 0 };
    // 6 dB a second: 3 and 12 dB of it are there.
    expect(endingOf(recorded({ ...order, steps: HELD_STEPS + 100 }), HELD_STEPS)).toBeUndefined();
    expect(endingOf(recorded({ ...order, steps: HELD_STEPS + 400 }), HELD_STEPS)?.standsOut).toBe(true);
  });
  it('is what a position in its hiss says, while the others are told', () => {
    const [near, far] = recorded({ directDb: [9, 2] });
    const hissy = near.map((power) => power + 4);
    const seconds = (powers: Float64Array[]) =>
      (-6 * STEP_SECONDS) / Math.log10(endingOf(powers, HELD_STEPS + 4)?.keeps ?? 1);
    expect(Math.abs(seconds([hissy, far]) - 1)).toBeLessThan(0.1);
    expect(Math.abs(seconds([near, far]) - 1)).toBeLessThan(0.1);
  });
  it('has no direct sound where it dies away as slowly from the beginning', () => {
    const dies = Float64Array.from(
      { length: 600 },
      (_, n) => 10 ** (-6 * Math.max(0, n - 40) * STEP_SECONDS),
    );
    expect(endingOf([dies], 40)?.standsOut).toBe(false);
  });
  it('is nothing where it goes on', () => {
    expect(endingOf([new Float64Array(300).fill(1)], 100)).toBeUndefined();
    expect(endingOf([new Float64Array(100).fill(1)], 100)).toBeUndefined();
  });
});

describe('hiss under a room', () => {
  const steps = (list: readonly [number, number][]) =>
    Float64Array.from(list.flatMap(([value, times]) => new Array<number>(times).fill(value)));
  it('is what is there in the last tenth; it is taken away, but not of what was faded out', () => {
    const power = steps([
      [5, 30],
      [1, 10],
      [3, 5],
      [2, 5],
    ]);
    const rest = steps([
      [3, 30],
      [0, 10],
      [1, 5],
      [0, 5],
    ]);
    expect(withoutNoise(power, { isFaded: false })).toEqual(rest);
    expect(withoutNoise(power, { isFaded: true })).toEqual(power);
  });
  it('hides a room that is not as loud as itself for 150 ms', () => {
    const lost = (room: number, isFaded = false) =>
      isLostInHiss(
        steps([
          [9, 20],
          [room, 30],
          [1, 50],
        ]),
        { ended: 20, isFaded },
      );
    expect([lost(1.9), lost(2.1), lost(1.9, true)]).toEqual([true, false, false]);
    // As much of the 30 steps as is there.
    expect(
      isLostInHiss(
        steps([
          [9, 20],
          [3, 10],
          [1, 4],
        ]),
        { ended: 20, isFaded: false },
      ),
    ).toBe(false);
  });
});
