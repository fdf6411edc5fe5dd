import { describe, expect, it } from 'vitest';
import { Random, type HallResponse } from '../dsp/index.ts';
import { HallConvolver } from './hall.ts';
import { ownSoundMemory } from './memory/index.ts';

const BLOCK = 128;
const random = new Random(7);
const LENGTH = 20_000;
const response = {
  left: Float32Array.from({ length: LENGTH }, () => random.between(-1, 1)),
  right: Float32Array.from({ length: LENGTH }, () => random.between(-1, 1)),
  earlyFrames: 4096,
};

/** A short burst in one channel, and what the hall makes of it in both. */
function render(
  early: number,
  tail: number,
  side: 'left' | 'right' = 'right',
  change?: (hall: HallConvolver, block: number) => void,
  own: HallResponse = response,
) {
  const sound = ownSoundMemory();
  const room = sound.roomOf(response);
  const hall = new HallConvolver(sound, own);
  hall.prepare();
  hall.setGains(early, tail);
  hall.reset();
  const blocks = 200;
  const input = new Float32Array(BLOCK * blocks);
  for (let i = 0; i < 300; i++) input[i + 50] = Math.sin(i * i * 0.01);
  const left = new Float32Array(input.length);
  const right = new Float32Array(input.length);
  const [from, to] = [room(BLOCK * 8), room(BLOCK * 8)];
  const [fed, made] = [sound.floats(from, 2 * BLOCK), sound.floats(to, 2 * BLOCK)];
  for (let b = 0; b < blocks; b++) {
    change?.(hall, b);
    made.fill(0);
    for (let i = 0; i < BLOCK; i++) {
      fed[2 * i] = side === 'left' ? input[b * BLOCK + i] : 0;
      fed[2 * i + 1] = side === 'right' ? input[b * BLOCK + i] : 0;
    }
    hall.process(from, to);
    for (let i = 0; i < BLOCK; i++) {
      left[b * BLOCK + i] = made[2 * i];
      right[b * BLOCK + i] = made[2 * i + 1];
    }
  }
  return { input, left, right };
}

/** Convolution by its definition. */
const direct = (input: Float32Array, channel: Float32Array, at: number) => {
  let sum = 0;
  for (let k = 0; k < 400 && k <= at; k++) if (at - k < channel.length) sum += input[k] * channel[at - k];
  return sum;
};
const most = (sound: Float32Array) => sound.reduce((peak, v) => Math.max(peak, Math.abs(v)), 0);

describe('the hall', () => {
  it.each(['left', 'right'] as const)('equals direct convolution across all partition sizes (%s)', (side) => {
    const made = render(1, 1, side);
    for (const at of [60, 200, 1500, 2047, 2500, 7000, 8191, 9000, 15_000, 20_100])
      expect(made[side][at]).toBeCloseTo(direct(made.input, response[side], at), 4);
  });
  it('keeps the channels apart to below −100 dB', () => {
    const { left, right } = render(1, 1);
    expect(most(left) / most(right)).toBeLessThan(1e-5);
  });
  it('turns early part and tail separately', () => {
    const early = render(1, 0).right;
    const tail = render(0, 1).right;
    expect(most(early.slice(5000, 20_000)) / most(early)).toBeLessThan(1e-6);
    expect(most(tail.slice(0, 4096)) / most(tail)).toBeLessThan(1e-6);
    expect(most(early.slice(0, 4096))).toBeGreaterThan(1);
    expect(most(tail.slice(5000, 20_000))).toBeGreaterThan(1);
  });
  it('glides to other gains, and is there after half a second', () => {
    const { right } = render(1, 0, 'right', (hall, block) => block === 20 && hall.setGains(0, 1));
    const tail = render(0, 1).right;
    const at = 18_000;
    expect(Math.abs(right[at] - tail[at])).toBeLessThan(0.02 * most(tail));
  });
  it('is silent after its end and after a reset', () => {
    const { right } = render(1, 1);
    expect(most(right.slice(LENGTH + 400 + 4096))).toBeLessThan(1e-4);
    const cut = render(1, 1, 'right', (hall, block) => block === 30 && hall.reset()).right;
    expect(most(cut.slice(30 * BLOCK))).toBe(0);
  });
});

describe('a hall in which the sides meet', () => {
  it('answers at both sides to what comes from one, each as its own response says', () => {
    const [leftToRight, rightToLeft] = [8, 9].map((seed) => {
      const noise = new Random(seed);
      return Float32Array.from({ length: LENGTH }, () => noise.between(-1, 1));
    });
    const whole = { ...response, cross: { leftToRight, rightToLeft } };
    const places = [60, 200, 1500, 2500, 7000, 9000, 15_000, 20_100];
    const fromLeft = render(1, 1, 'left', undefined, whole);
    const fromRight = render(1, 1, 'right', undefined, whole);
    for (const at of places) {
      expect(fromLeft.left[at]).toBeCloseTo(direct(fromLeft.input, response.left, at), 4);
      expect(fromLeft.right[at]).toBeCloseTo(direct(fromLeft.input, leftToRight, at), 4);
      expect(fromRight.left[at]).toBeCloseTo(direct(fromRight.input, rightToLeft, at), 4);
      expect(fromRight.right[at]).toBeCloseTo(direct(fromRight.input, response.right, at), 4);
    }
  });
});
