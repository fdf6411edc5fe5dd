import { describe, expect, it } from 'vitest';
import { Random } from '../dsp/index.ts';
import { takeHall } from './index.ts';

const RATE = 48_000;
/** Noise that falls by 60 dB in so many seconds, after a wait. */
function ringing(
  seed: string,
  decaySeconds: number,
  seconds: number,
  waitSeconds = 0,
  level = 0.5,
): Float32Array {
  const random = new Random(seed);
  const wait = Math.round(waitSeconds * RATE);
  const out = new Float32Array(wait + Math.round(seconds * RATE));
  for (let i = wait; i < out.length; i++)
    out[i] = level * 10 ** ((-3 * (i - wait)) / RATE / decaySeconds) * (random.next() * 2 - 1);
  out[wait] = level;
  return out;
}
const sentence = (channels: Float32Array[]) => {
  try {
    takeHall(channels, 'hall.wav');
    return 'taken';
  } catch (error) {
    expect(error).toMatchObject({ code: 'file.unsupported', place: { file: 'hall.wav' } });
    return (error as Error).message;
  }
};

describe('an impulse response', () => {
  it('begins with its direct sound and ends where nothing is left, in time between its channels', () => {
    const left = ringing('l', 1.2, 4, 0.25);
    const right = ringing('r', 1.2, 4, 0.25);
    const taken = takeHall([left, right], 'hall.wav');
    expect(taken.channels).toHaveLength(2);
    const direct = taken.channels[0].findIndex((value) => Math.abs(value) >= 0.5);
    expect(direct).toBe(24);
    expect(taken.channels[0][direct + 1000]).toBe(left[0.25 * RATE + 1000]);
    expect(taken.channels[1][direct + 1000]).toBe(right[0.25 * RATE + 1000]);
    expect(taken.decaySeconds).toBeCloseTo(1.2, 1);
    // 80 dB at 1.2 s for 60 dB: about 1.6 s.
    expect(taken.channels[0].length / RATE).toBeGreaterThan(1.5);
    expect(taken.channels[0].length / RATE).toBeLessThan(1.75);
    expect(taken.remarks).toEqual([expect.stringContaining('250 ms')]);
  });

  it('is taken without a remark where there is nothing to say', () => {
    expect(takeHall([ringing('a', 0.6, 1)], 'hall.wav').remarks).toEqual([]);
    expect(
      takeHall(
        ['a', 'b', 'c', 'd'].map((seed) => ringing(seed, 0.8, 2)),
        'hall.wav',
      ).channels,
    ).toHaveLength(4);
  });

  it('ends without a step', () => {
    const { channels } = takeHall([ringing('a', 3, 14)], 'hall.wav');
    expect(channels[0].length).toBeLessThanOrEqual(10 * RATE);
    expect(Math.abs(channels[0][channels[0].length - 1])).toBe(0);
  });

  it('is cut where it is hardly heard after ten seconds, and refused where it goes on', () => {
    const long = takeHall([ringing('a', 11, 13)], 'hall.wav');
    expect(long.channels[0]).toHaveLength(10 * RATE);
    expect(long.remarks).toEqual([expect.stringContaining('cut at 10 s')]);
    expect(sentence([ringing('a', 30, 14)])).toContain('still sounds after 10 s');
  });

  it('is refused with the reason when it is none', () => {
    expect(sentence([])).toContain('0 channels');
    expect(sentence([1, 2, 3].map((n) => ringing(`${n}`, 1, 2)))).toContain('3 channels');
    expect(sentence([new Float32Array(RATE)])).toBe('It is silent.');
    expect(sentence([ringing('a', 1, 2), new Float32Array(2 * RATE)])).toContain('Channel 2');
    expect(sentence([ringing('a', 0.01, 0.03)])).toContain('less than 50 ms');
    expect(sentence([Float32Array.from({ length: RATE }, (_, i) => Math.sin(i / 20))])).toContain(
      'does not die away',
    );
    const broken = ringing('a', 1, 2);
    broken[500] = NaN;
    expect(sentence([broken])).toContain('no numbers');
  });
});
