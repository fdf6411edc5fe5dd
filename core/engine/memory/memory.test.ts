import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { Random } from '../../dsp/index.ts';
import { Allocator, ownSoundMemory, SoundMemory } from './index.ts';

const MB = 2 ** 20;

describe('an allocator', () => {
  it('gives places that do not overlap, at multiples of 16, inside of what it has', () => {
    fc.assert(
      fc.property(
        fc.array(fc.record({ bytes: fc.integer({ min: 0, max: 5000 }), drop: fc.nat() }), { maxLength: 120 }),
        (steps) => {
          const allocator = new Allocator();
          allocator.add({ from: 100, to: 40_000 });
          allocator.add({ from: 60_000, to: 90_007 });
          const held: { from: number; to: number }[] = [];
          for (const { bytes, drop } of steps) {
            const from = allocator.allocate(bytes);
            if (from !== undefined) {
              expect(from % 16).toBe(0);
              const to = from + Math.max(1, bytes);
              expect((from >= 100 && to <= 40_000) || (from >= 60_000 && to <= 90_007)).toBe(true);
              for (const other of held) expect(to <= other.from || from >= other.to).toBe(true);
              held.push({ from, to });
            }
            if (drop % 3 === 0 && held.length > 0) {
              const [gone] = held.splice(drop % held.length, 1);
              allocator.release(gone.from);
            }
          }
          for (const { from } of held) allocator.release(from);
          // All of it is free again, in the two pieces it was given.
          expect(allocator.usedBytes).toBe(0);
          expect(allocator.freeRoom).toEqual({ bytes: 39_888 + 30_000, pieces: 2, largest: 39_888 });
        },
      ),
    );
  });
  it('joins stretches that touch, and tells when nothing fits', () => {
    const allocator = new Allocator();
    allocator.add({ from: 64, to: 128 });
    allocator.add({ from: 128, to: 256 });
    expect(allocator.freeRoom).toEqual({ bytes: 192, pieces: 1, largest: 192 });
    expect(allocator.allocate(200)).toBeUndefined();
    expect(allocator.allocate(192)).toBe(64);
    expect(allocator.allocate(1)).toBeUndefined();
  });
  it('takes nothing back that it did not give, or twice', () => {
    const allocator = new Allocator();
    allocator.add({ from: 0, to: 1024 });
    const at = allocator.allocate(32) ?? -1;
    allocator.release(at);
    expect(() => allocator.release(at)).toThrow(/nothing was given out/);
    expect(() => allocator.release(17)).toThrow(/nothing was given out/);
  });
  it('takes the smallest piece that fits', () => {
    const allocator = new Allocator();
    allocator.add({ from: 0, to: 1600 });
    const [, small, , , large] = [160, 64, 160, 160, 320].map((bytes) => allocator.allocate(bytes) ?? -1);
    allocator.release(large);
    allocator.release(small);
    expect(allocator.allocate(48)).toBe(small);
  });
});

describe('the memory of sound', () => {
  it('stays nearly whole while recordings of half a second to ten come and go a thousand times', () => {
    const sound = SoundMemory.create();
    const random = new Random(3);
    const sizes = () => Math.round(48_000 * 4 * random.between(0.5, 10));
    const held: number[] = [];
    let bytes = 0;
    const loaded = new Map<number, number>();
    const load = () => {
      const size = sizes();
      const at = sound.allocate(size);
      loaded.set(at, size);
      bytes += size;
      held.push(at);
    };
    while (bytes < 256 * MB) load();
    const before = sound.heldBytes;
    for (let i = 0; i < 1000; i++) {
      const [gone] = held.splice(Math.floor(random.next() * held.length), 1);
      bytes -= loaded.get(gone) ?? 0;
      sound.release(gone);
      while (bytes < 256 * MB) load();
    }
    const { bytes: free, pieces, largest } = sound.freeRoom;
    const grown = sound.heldBytes / before;
    console.log(
      `after 1,000 loads and unloads: ${(bytes / MB).toFixed(0)} MB of sound in ${(sound.heldBytes / MB).toFixed(0)} MB, ` +
        `${(free / MB).toFixed(1)} MB free in ${pieces} pieces, the largest ${(largest / MB).toFixed(1)} MB`,
    );
    expect(grown).toBeLessThan(1.15);
    for (const at of held) sound.release(at);
    expect(sound.usedBytes).toBe(0);
    expect(sound.freeRoom.pieces).toBe(1);
  });
  it('clears what was used before, and only that, also where a place is partly new', () => {
    const sound = SoundMemory.create();
    const first = sound.allocate(4096);
    sound.floats(first, 1024).fill(7);
    sound.release(first);
    const again = sound.allocateClear(8192);
    expect(again).toBe(first);
    expect(sound.floats(again, 2048).every((value) => value === 0)).toBe(true);
    // Room in the memory of another thread may hold anything.
    sound.floats(again, 2048).fill(7);
    const other = SoundMemory.within(sound.memory, { from: again, to: again + 8192 });
    expect(other.floats(other.allocateClear(4096), 1024).every((value) => value === 0)).toBe(true);
  });
  it('copies an array once, and knows it again', () => {
    const sound = ownSoundMemory();
    const data = Int16Array.from([1, -2, 3]);
    const at = sound.placeOf(data);
    expect(sound.placeOf(data)).toBe(at);
    expect([...new Int16Array(sound.memory.buffer, at, 3)]).toEqual([1, -2, 3]);
  });
  it('grows when it must, and what lies in it stays where it is', () => {
    const sound = SoundMemory.create();
    const first = sound.floats(sound.allocate(16), 4);
    first.set([1, 2, 3, 4]);
    const before = sound.heldBytes;
    const at = sound.allocateClear(9 * MB);
    expect(sound.heldBytes).toBeGreaterThanOrEqual(before + 8 * MB);
    expect([...first]).toEqual([1, 2, 3, 4]);
    expect(sound.doubles(at, 2)).toEqual(new Float64Array(2));
  });
  it('of another thread stays within its room, and takes more', () => {
    const owner = SoundMemory.create();
    const from = owner.allocate(1000);
    const other = SoundMemory.within(owner.memory, { from, to: from + 1000 });
    expect(other.allocate(500)).toBeGreaterThanOrEqual(from);
    expect(() => other.allocate(2 * MB)).toThrow(/gives no more memory for sound \(3 MB/);
    const more = owner.allocate(3 * MB);
    other.add({ from: more, to: more + 3 * MB });
    expect(other.allocate(2 * MB)).toBeGreaterThanOrEqual(more);
  });
});
