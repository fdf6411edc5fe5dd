import { afterEach, describe, expect, it } from 'vitest';
import type { Instrument, SampleInfo } from '#core/catalogue/index.ts';
import { InstrumentLoader, type LoadState } from './loader.ts';

const HEAD = 3;

/** An instrument of one pack with a 16-bit stereo and a 32-bit mono sample, and the pack's bytes. */
function packed() {
  const stereo = Int16Array.from({ length: 20 }, (_, i) => i * 100 - 900);
  const mono = Float32Array.from({ length: 7 }, (_, i) => i / 10);
  const bytesOf = (data: Int16Array | Float32Array) => new Uint8Array(data.buffer);
  const heads = [bytesOf(stereo).slice(0, HEAD * 4), bytesOf(mono).slice(0, HEAD * 4)];
  const tails = [bytesOf(stereo).slice(HEAD * 4), bytesOf(mono).slice(HEAD * 4)];
  const bytes = new Uint8Array([...heads, ...tails].flatMap((part) => [...part]));
  const info = (
    id: string,
    channels: 1 | 2,
    format: SampleInfo['format'],
    frames: number,
    headOffset: number,
    tailOffset: number,
  ): SampleInfo => ({
    id,
    channels,
    format,
    frames,
    rate: 48000,
    pack: 'p',
    headFrames: HEAD,
    headOffset,
    tailOffset,
  });
  const instrument: Instrument = {
    id: 'i',
    name: 'I',
    family: 'other',
    kind: 'solo',
    players: 1,
    positions: [{ id: 'mix', name: 'Mix' }],
    articulations: [],
    samples: { a: info('a', 2, 'i16', 10, 0, 24), b: info('b', 1, 'f32', 7, 12, 24 + 28) },
    packs: { p: { id: 'p', articulation: 'long', position: 'mix', headBytes: 24, bytes: bytes.length } },
  };
  return { instrument, bytes, stereo, mono };
}

const realFetch = globalThis.fetch;
afterEach(() => {
  globalThis.fetch = realFetch;
});

function serve(instrument: Instrument, bytes: Uint8Array, ranges: string[], cut = 0): void {
  globalThis.fetch = ((path: string, init?: RequestInit) => {
    if (path.endsWith('/instruments/i')) return Promise.resolve(new Response(JSON.stringify(instrument)));
    const range = new Headers(init?.headers).get('range') ?? '';
    ranges.push(range);
    const [from, to] = range.replace('bytes=', '').split('-').map(Number);
    return Promise.resolve(new Response(bytes.slice(from, to + 1 - cut), { status: 206 }));
  }) as typeof fetch;
}

describe('loading an instrument', () => {
  it('brings heads first, then the rest, into shared memory that is counted exactly', async () => {
    const { instrument, bytes, stereo, mono } = packed();
    const ranges: string[] = [];
    serve(instrument, bytes, ranges);
    const states: LoadState[] = [];
    const heads: number[][] = [];
    const loader = await InstrumentLoader.open('i', (state) => {
      states.push(state);
      heads.push([...(state.audio.get('a')?.data ?? [])]);
    });
    await loader.load(new Set());
    expect(ranges).toEqual(['bytes=0-23', `bytes=24-${bytes.length - 1}`]);
    expect(heads[0]).toEqual([...stereo.slice(0, 6), ...new Array(14).fill(0)]);
    const last = states[states.length - 1];
    expect(last).toMatchObject({ complete: true, loadedBytes: bytes.length, totalBytes: bytes.length });
    expect([...(last.audio.get('a')?.data ?? [])]).toEqual([...stereo]);
    expect([...(last.audio.get('b')?.data ?? [])]).toEqual([...mono]);
    expect(last.audio.get('a')?.data.buffer).toBeInstanceOf(SharedArrayBuffer);
    // 40 and 28 bytes, each rounded up to eight.
    expect(last.bytes).toBe(40 + 32);
  });
  it('says so when less arrives than was announced', async () => {
    const { instrument, bytes } = packed();
    serve(instrument, bytes, [], 1);
    const states: LoadState[] = [];
    const loader = await InstrumentLoader.open('i', (state) => states.push(state));
    await loader.load(new Set());
    expect(states[states.length - 1].error).toContain('Less sound arrived');
  });
});
