import { readsOf, type PackReadsShape } from '#api/index.ts';
import { afterEach, describe, expect, it } from 'vitest';
import type { SampleInfo } from '#core/catalogue/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import { SampleBank } from './sample-bank.ts';

const HEAD = 3;
const memory = SoundMemory.create();
const newBank = (forget?: (ids: readonly string[]) => Promise<void>) => new SampleBank(() => memory, forget);
/** Until what was let go is given back. */
const settled = () => new Promise((resolve) => setTimeout(resolve, 0));

/** A pack of 16-bit stereo and 32-bit mono samples: all heads, then all the rests. */
function packed() {
  const stereo = Int16Array.from({ length: 20 }, (_, i) => i * 100 - 900);
  const mono = Float32Array.from({ length: 7 }, (_, i) => i / 10);
  const other = Int16Array.from({ length: 12 }, (_, i) => i - 5);
  const all = [stereo, mono, other];
  const widths = [4, 4, 4];
  const bytesOf = (data: Int16Array | Float32Array) => new Uint8Array(data.buffer);
  const heads = all.map((data, i) => bytesOf(data).slice(0, HEAD * widths[i]));
  const tails = all.map((data, i) => bytesOf(data).slice(HEAD * widths[i]));
  const bytes = new Uint8Array([...heads, ...tails].flatMap((part) => [...part]));
  const offset = (parts: readonly Uint8Array[], i: number) =>
    parts.slice(0, i).reduce((sum, part) => sum + part.length, 0);
  const headBytes = offset(heads, 3);
  const info = (
    id: string,
    i: number,
    channels: 1 | 2,
    format: SampleInfo['format'],
    frames: number,
  ): SampleInfo => ({
    id,
    channels,
    format,
    frames,
    rate: 48_000,
    pack: 'p',
    headFrames: HEAD,
    headOffset: offset(heads, i),
    tailOffset: headBytes + offset(tails, i),
  });
  const samples = [info('a', 0, 2, 'i16', 10), info('b', 1, 1, 'f32', 7), info('c', 2, 2, 'i16', 6)];
  return { samples, bytes, stereo, mono, headBytes };
}

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});

function serve(bytes: Uint8Array, asked: string[], cut = 0): void {
  globalThis.fetch = ((_path: string, init?: RequestInit) => {
    const reads = readsOf(JSON.parse(String(init?.body)) as PackReadsShape) ?? [];
    asked.push(reads.map(({ start, end }) => `${start}-${end}`).join(' '));
    const all = reads.flatMap(({ start, end }) => Array.from(bytes.subarray(start, end)));
    return Promise.resolve(new Response(Uint8Array.from(all.slice(0, all.length - cut))));
  }) as typeof fetch;
}

describe('recordings in memory', () => {
  it('come heads first, then the rest, into shared memory that is counted exactly', async () => {
    const { samples, bytes, stereo, mono, headBytes } = packed();
    const ranges: string[] = [];
    serve(bytes, ranges);
    const bank = newBank();
    const told: number[] = [];
    const heads: number[][] = [];
    await bank.claim(new Map([['x', samples.slice(0, 2)]]), (loaded) => {
      told.push(loaded);
      heads.push([...(bank.get('a')?.data ?? [])]);
    });
    expect(ranges).toEqual(['0-24', `${headBytes}-${headBytes + 44}`]);
    expect(heads[0].slice(0, 6)).toEqual(Array.from(stereo.slice(0, 6)));
    expect([...(bank.get('a')?.data ?? [])]).toEqual([...stereo]);
    expect([...(bank.get('b')?.data ?? [])]).toEqual([...mono]);
    expect(bank.get('a')?.data.buffer).toBeInstanceOf(SharedArrayBuffer);
    // 40 and 28 bytes, each rounded up to eight.
    expect(bank.bytes).toBe(40 + 32);
    expect(told.at(-1)).toBe(40 + 28);
  });
  it('are held once for all who want them, and go when nobody does', async () => {
    const { samples, bytes } = packed();
    const ranges: string[] = [];
    serve(bytes, ranges);
    const bank = newBank();
    await bank.claim(new Map([['one', samples.slice(0, 2)]]), () => undefined);
    const held = bank.bytes;
    expect(bank.missingBytes(samples)).toBe(24);
    await bank.claim(new Map([['two', samples.slice(1)]]), () => undefined);
    expect(bank.bytes).toBe(held + 24);
    expect(ranges).toHaveLength(4);
    // The first block is still played from by the second claim.
    expect(bank.freedBy(new Set(['one']))).toBe(0);
    expect(bank.freedBy(new Set(['one', 'two']))).toBe(held + 24);
    bank.release('one');
    expect(bank.get('b')).toBeDefined();
    bank.release('two');
    await settled();
    expect([bank.bytes, bank.get('b'), bank.isClaimed('two')]).toEqual([0, undefined, false]);
  });
  it('are waited for, not fetched again, when two want them at once', async () => {
    const { samples, bytes } = packed();
    const ranges: string[] = [];
    serve(bytes, ranges);
    const bank = newBank();
    await Promise.all([
      bank.claim(new Map([['one', samples]]), () => undefined),
      bank.claim(new Map([['two', samples]]), () => undefined),
    ]);
    expect(ranges).toHaveLength(2);
    bank.release('one');
    expect(bank.get('a')).toBeDefined();
  });
  it('come in one request for many pieces, those that somebody waits for before all others', async () => {
    const { samples, bytes } = packed();
    const ranges: string[] = [];
    serve(bytes, ranges);
    const bank = newBank();
    const ended: string[] = [];
    await Promise.all([
      ...[0, 2].map((i) =>
        bank.claim(new Map([[`far ${i}`, [samples[i]]]]), () => undefined).then(() => ended.push('far')),
      ),
      bank.claim(new Map([['urgent', [samples[1]]]]), () => undefined, true).then(() => ended.push('urgent')),
    ]);
    // Two requests are under way before it is wanted; it comes before all that waits.
    expect(ended).toHaveLength(3);
    expect(ranges.indexOf('12-24')).toBeLessThan(3);
    expect([...(bank.get('c')?.data ?? [])]).toEqual([-5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 6]);
  });
  it('say so when less arrives than was announced, keep nothing half, and can be tried again', async () => {
    const { samples, bytes } = packed();
    serve(bytes, [], 1);
    const bank = newBank();
    await expect(bank.claim(new Map([['x', samples]]), () => undefined)).rejects.toThrow(
      /Less sound arrived/,
    );
    await settled();
    expect([bank.bytes, bank.get('a')]).toEqual([0, undefined]);
    serve(bytes, []);
    await bank.claim(new Map([['x', samples]]), () => undefined);
    expect(bank.get('a')).toBeDefined();
  });
  it('lie in the one memory, where they are told to lie, and leave it when nobody reads them any more', async () => {
    const { samples, bytes, stereo } = packed();
    serve(bytes, []);
    let pass: () => void = () => undefined;
    const told: string[] = [];
    const bank = newBank((ids) => {
      told.push(...ids);
      return new Promise((resolve) => (pass = resolve));
    });
    const before = memory.usedBytes;
    await bank.claim(new Map([['x', samples.slice(0, 1)]]), () => undefined);
    const audio = bank.get('a');
    expect([...new Int16Array(memory.memory.buffer, audio?.address, 20)]).toEqual([...stereo]);
    expect(memory.usedBytes).toBe(before + 48);
    bank.release('x');
    await settled();
    // The audio thread has not said yet that it plays none of it.
    expect(told).toEqual(['a']);
    expect([memory.usedBytes, bank.bytes]).toEqual([before + 48, 40]);
    pass();
    await settled();
    expect([memory.usedBytes, bank.bytes]).toEqual([before, 0]);
  });
  it('stay where they are while a worker reads them', async () => {
    const { samples, bytes } = packed();
    serve(bytes, []);
    const bank = newBank();
    const before = memory.usedBytes;
    await bank.claim(new Map([['x', samples]]), () => undefined);
    const letGo = [bank.hold(), bank.hold()];
    bank.release('x');
    await settled();
    expect(memory.usedBytes).toBeGreaterThan(before);
    letGo[0]();
    letGo[0]();
    await settled();
    expect(memory.usedBytes).toBeGreaterThan(before);
    letGo[1]();
    await settled();
    expect(memory.usedBytes).toBe(before);
  });
  it('that do not fit are told with their size; those that do are here', async () => {
    const { samples, bytes, stereo } = packed();
    serve(bytes, []);
    const small = SoundMemory.create();
    const from = small.allocate(64);
    const tight = SoundMemory.within(small.memory, { from, to: from + 64 });
    const bank = new SampleBank(() => tight);
    await expect(
      bank.claim(
        new Map([
          ['a', [samples[0]]],
          ['c', [{ ...samples[2], frames: 3e6 }]],
        ]),
        () => undefined,
      ),
    ).rejects.toThrow(/^12 MB of it do not fit/);
    expect([...(bank.get('a')?.data ?? [])]).toEqual([...stereo]);
    expect([bank.isPlaced('a'), bank.isPlaced('c')]).toEqual([true, false]);
  });
  it('arrive in pieces of any size', async () => {
    const { samples, bytes, stereo, mono } = packed();
    globalThis.fetch = ((_path: string, init?: RequestInit) => {
      const reads = readsOf(JSON.parse(String(init?.body)) as PackReadsShape) ?? [];
      const all = reads.flatMap(({ start, end }) => [...bytes.subarray(start, end)]);
      let at = 0;
      const body = new ReadableStream({
        pull(controller) {
          if (at >= all.length) controller.close();
          else controller.enqueue(Uint8Array.from(all.slice(at, (at += 1 + (at % 7)))));
        },
      });
      return Promise.resolve(new Response(body));
    }) as typeof fetch;
    const bank = newBank();
    await bank.claim(new Map([['x', samples]]), () => undefined);
    expect([...(bank.get('a')?.data ?? [])]).toEqual([...stereo]);
    expect([...(bank.get('b')?.data ?? [])]).toEqual([...mono]);
    expect([...(bank.get('c')?.data ?? [])]).toEqual([-5, -4, -3, -2, -1, 0, 1, 2, 3, 4, 5, 6]);
  });
});
