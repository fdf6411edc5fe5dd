import { readsOf, type PackReadsShape } from '#api/index.ts';
import { afterEach, describe, expect, it } from 'vitest';
import type { SampleInfo } from '#core/catalogue/index.ts';
import { SampleBank } from './sample-bank.ts';

const HEAD = 3;

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
    const bank = new SampleBank();
    const told: number[] = [];
    const heads: number[][] = [];
    await bank.claim(new Map([['x', samples.slice(0, 2)]]), (loaded) => {
      told.push(loaded);
      heads.push([...(bank.get('a')?.data ?? [])]);
    });
    expect(ranges).toEqual(['0-24', `${headBytes}-${headBytes + 44}`]);
    expect(heads[0]).toEqual([...stereo.slice(0, 6), ...new Array<number>(14).fill(0)]);
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
    const bank = new SampleBank();
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
    expect([bank.bytes, bank.get('b'), bank.isClaimed('two')]).toEqual([0, undefined, false]);
  });
  it('are waited for, not fetched again, when two want them at once', async () => {
    const { samples, bytes } = packed();
    const ranges: string[] = [];
    serve(bytes, ranges);
    const bank = new SampleBank();
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
    const bank = new SampleBank();
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
    const bank = new SampleBank();
    await expect(bank.claim(new Map([['x', samples]]), () => undefined)).rejects.toThrow(
      /Less sound arrived/,
    );
    expect([bank.bytes, bank.get('a')]).toEqual([0, undefined]);
    serve(bytes, []);
    await bank.claim(new Map([['x', samples]]), () => undefined);
    expect(bank.get('a')).toBeDefined();
  });
});
