import { describe, expect, it } from 'vitest';
import type { HallResponse } from '../dsp/index.ts';
import { Halls } from './halls.ts';
import { ownSoundMemory, type SoundMemory } from './memory/index.ts';

const BLOCK = 128;
const LENGTH = 6000;

/** A hall whose answer is one pulse at a frame. */
function pulse(frame: number, level = 1): HallResponse {
  const side = new Float32Array(LENGTH);
  side[frame] = level;
  return { left: side, right: side, earlyFrames: LENGTH };
}

/** Plays a steady sound through halls. */
function played(
  act: (halls: Halls, block: number, sound: SoundMemory) => void,
  blocks: number,
  value = (_frame: number) => 0.5,
) {
  const sound = ownSoundMemory();
  const halls = new Halls(sound);
  const room = sound.roomOf(halls);
  const [from, to] = [room(BLOCK * 8), room(BLOCK * 8)];
  const out = new Float32Array(blocks * BLOCK);
  for (let b = 0; b < blocks; b++) {
    act(halls, b, sound);
    const fed = sound.floats(from, 2 * BLOCK);
    for (let i = 0; i < BLOCK; i++) fed[2 * i] = fed[2 * i + 1] = value(b * BLOCK + i);
    sound.floats(to, 2 * BLOCK).fill(0);
    halls.process(from, to);
    for (let i = 0; i < BLOCK; i++) out[b * BLOCK + i] = sound.floats(to, 2 * BLOCK)[2 * i];
  }
  return { out, halls, sound };
}
const steepest = (wave: Float32Array, from: number) =>
  wave.reduce((most, v, i) => (i <= from ? most : Math.max(most, Math.abs(v - wave[i - 1]))), 0);

describe('changing the hall', () => {
  it('is done at once before anything has sounded', () => {
    const { out } = played((halls, b) => {
      if (b > 0) return;
      halls.set(pulse(10));
      halls.set(pulse(20, 0.5));
    }, 4);
    expect(out[19]).toBeCloseTo(0, 5);
    expect(out[20]).toBeCloseTo(0.25, 5);
  });
  it('goes over without gap or click, and what rings in the old one rings on', () => {
    const { out } = played((halls, b) => {
      if (b === 0) halls.set(pulse(2000));
      if (b === 40) halls.set(pulse(3000));
    }, 160);
    // Both give the sound back as it was, one later than the other.
    expect(steepest(out, 2001)).toBeLessThan(0.001);
    for (let i = 2100; i < out.length; i++) {
      expect(out[i]).toBeGreaterThan(0.2);
      expect(out[i]).toBeLessThan(0.501);
    }
    // What the old hall holds is heard for 1,000 frames beside nothing of the new one: the least of the sum lies there.
    expect(out[out.length - 1]).toBeCloseTo(0.5, 4);
  });
  it('waits for what rings before the next change, and comes to the last one asked for', () => {
    const { out } = played((halls, b) => {
      if (b === 0) halls.set(pulse(0, 1));
      if (b === 10) halls.set(pulse(0, 0.5));
      if (b === 14) halls.set(pulse(0, 0.25));
      if (b === 16) halls.set(pulse(0, 0.75));
    }, 200);
    expect(steepest(out, 1)).toBeLessThan(0.001);
    expect(out[40 * BLOCK]).toBeCloseTo(0.25, 4);
    expect(out[out.length - 1]).toBeCloseTo(0.375, 4);
  });
  it('gives the old hall’s place back when it has rung out', () => {
    const used: number[] = [];
    played((halls, b, sound) => {
      if (b === 0 || b === 4) halls.set(pulse(0));
      used.push(sound.usedBytes);
    }, 120);
    expect(used[4]).toBeGreaterThan(used[3]);
    expect(used[119]).toBe(used[3]);
  });
  it('is over at once when a performance begins anew', () => {
    const { halls, sound } = played((hall, b) => {
      if (b === 0) hall.set(pulse(0, 1));
      if (b === 2) hall.set(pulse(0, 0.5));
    }, 3);
    halls.reset();
    const place = sound.roomOf(halls)(2 * BLOCK * 8);
    sound.floats(place, 2 * BLOCK).fill(0.5);
    halls.process(place, place + BLOCK * 8);
    expect(sound.floats(place + BLOCK * 8, 1)[0]).toBeCloseTo(0.25, 5);
  });
  it('turns early part and tail of whatever sounds', () => {
    const { out } = played((halls, b) => {
      if (b === 0) {
        halls.setMix({ earlyDb: -6.0206, tailDb: 0 });
        halls.set(pulse(0));
      }
    }, 10);
    expect(out[300]).toBeCloseTo(0.25, 4);
  });
});
