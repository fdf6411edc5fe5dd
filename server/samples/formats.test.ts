import { createRequire } from 'node:module';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, describe, expect, it, vi } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import { memoryBytes, NO_FACTS, samplesOf, type Instrument, type SampleInfo } from '#core/catalogue/index.ts';
import { Engine, prepareInstrument, type SampleAudio } from '#core/engine/index.ts';
import { PLAIN_POSITION } from '#core/mixing/index.ts';
import { flacFacts, readFlac } from './flac.ts';
import { memorySource } from './file-source.ts';
import { packPath } from './pack-writer.ts';
import { resample } from './resample.ts';
import { takeIn } from './take-in.ts';

let folder: string;
beforeAll(() => {
  folder = mkdtempSync(join(tmpdir(), 'farlo-formats-'));
});
afterAll(() => rmSync(folder, { recursive: true, force: true }));

/** Encodes with the library's own encoder, so that the test needs no other program. */
async function flacOf(channels: readonly Int32Array[], rate: number, bits: number): Promise<Uint8Array> {
  const require = createRequire(import.meta.url);
  const { fetch } = globalThis;
  Object.assign(globalThis, { fetch: undefined });
  const flac = (require('libflacjs') as (variant: string) => FlacEncoder)('wasm');
  if (!flac.isReady()) await new Promise<void>((resolve) => flac.on('ready', () => resolve()));
  Object.assign(globalThis, { fetch });
  const encoder = flac.create_libflac_encoder(rate, channels.length, bits, 5, channels[0].length, true, 0);
  const chunks: Uint8Array[] = [];
  let info: Record<string, number | string> = {};
  flac.init_encoder_stream(
    encoder,
    (chunk) => chunks.push(chunk.slice()),
    (metadata) => (info = metadata),
  );
  flac.FLAC__stream_encoder_process(encoder, channels as Int32Array[], channels[0].length);
  flac.FLAC__stream_encoder_finish(encoder);
  const bytes = Buffer.concat(chunks);
  // What is only known at the end goes into the first block: total frames and the checksum.
  bytes.writeUInt32BE(Number(info.total_samples), 22);
  Buffer.from(String(info.md5sum), 'hex').copy(bytes, 26);
  return new Uint8Array(bytes);
}
interface FlacEncoder {
  isReady(): boolean;
  on(event: 'ready', listener: () => void): void;
  create_libflac_encoder(
    rate: number,
    channels: number,
    bits: number,
    level: number,
    total: number,
    verify: boolean,
    block: number,
  ): number;
  init_encoder_stream(
    encoder: number,
    write: (chunk: Uint8Array) => void,
    metadata: (info: Record<string, number | string>) => void,
  ): number;
  FLAC__stream_encoder_process(encoder: number, channels: Int32Array[], frames: number): boolean;
  FLAC__stream_encoder_finish(encoder: number): boolean;
}

describe('FLAC', () => {
  const wave = (bits: number, turn = 1) =>
    Int32Array.from({ length: 20_000 }, (_, i) =>
      Math.round(turn * Math.sin(i / 9 + turn) * 2 ** (bits - 1) * 0.8),
    );
  it.each([16, 24])('is decoded bit by bit at %d bits', async (bits) => {
    const channels = [wave(bits), wave(bits, -1)];
    const bytes = await flacOf(channels, 44_100, bits);
    expect(flacFacts(bytes, 'a.flac')).toEqual({ frames: 20_000, rate: 44_100, channels: 2 });
    const audio = await readFlac(bytes, 'a.flac');
    expect([audio.rate, audio.format]).toEqual([44_100, bits === 16 ? 'i16' : 'i24']);
    channels.forEach((channel, c) =>
      expect(audio.channels[c].every((value, i) => value === channel[i] / 2 ** (bits - 1))).toBe(true),
    );
  });
  it('without a sum of the whole is refused where the sum of one frame is wrong', async () => {
    const channels = [wave(16), wave(16, -1)];
    const bytes = await flacOf(channels, 48_000, 16);
    // Zeros say that there is no sum.
    bytes.fill(0, 26, 42);
    expect((await readFlac(bytes, 'plain.flac')).channels[0][500]).toBe(channels[0][500] / 32_768);
    const said = vi.spyOn(console, 'error').mockImplementation(() => undefined);
    for (const share of [0.3, 0.5, 0.9]) {
      const damaged = bytes.slice();
      damaged[Math.floor(bytes.length * share)] ^= 4;
      await expect(readFlac(damaged, 'bit.flac')).rejects.toThrow(/damaged/);
    }
    said.mockRestore();
  });
  it('is refused when it ends early or was damaged in the middle', async () => {
    const bytes = await flacOf([wave(16)], 48_000, 16);
    await expect(readFlac(bytes.subarray(0, bytes.length - 2000), 'cut.flac')).rejects.toThrow(
      /damaged or ends early/,
    );
    const damaged = bytes.slice();
    for (let i = 0; i < 40; i++) damaged[Math.floor(bytes.length / 2) + i] ^= 0x55;
    await expect(readFlac(damaged, 'bad.flac')).rejects.toThrow(/damaged/);
    expect(() => flacFacts(new Uint8Array(100), 'no.flac')).toThrow(/no FLAC file/);
  });
});

describe('other sample rates', () => {
  it('are converted in time and in tune, with noise far below hearing', async () => {
    for (const [from, to] of [
      [44_100, 48_000],
      [96_000, 48_000],
      [48_000, 24_000],
    ]) {
      const source = Float32Array.from(
        { length: from },
        (_, i) => 0.5 * Math.sin((2 * Math.PI * 1000 * i) / from),
      );
      const made = await resample(source, from, to);
      expect(made.length).toBe(to);
      let worst = 0;
      for (let i = 2000; i < to - 2000; i++)
        worst = Math.max(worst, Math.abs(made[i] - 0.5 * Math.sin((2 * Math.PI * 1000 * i) / to)));
      expect(20 * Math.log10(worst)).toBeLessThan(-100);
    }
  });
});

describe('a real SoundFont', () => {
  const path = '/usr/share/sounds/sf2/TimGM6mb.sf2';
  const packs = new Map<string, Buffer>();
  it('is taken in completely, stored once, and every preset plays', async () => {
    expect(existsSync(path), 'the Debian package timgm6mb-soundfont is installed by `npm test`').toBe(true);
    const bytes = new Uint8Array(readFileSync(path));
    const library = await takeIn(
      memorySource(new Map([['TimGM6mb.sf2', bytes]])),
      { library: 'General', maker: 'x', room: 'x', recipe: 'x', facts: NO_FACTS, instruments: {} },
      folder,
      new Set(),
      () => undefined,
    );
    expect(library.report.failed).toEqual([]);
    expect(library.instruments).toHaveLength(136);
    // Presets share samples; on the disk there is not more than the file holds.
    expect(library.report.bytes).toBeLessThan(bytes.length);
    const stored = new Map<string, SampleInfo>();
    for (const { samples } of library.instruments)
      for (const [id, info] of Object.entries(samples)) stored.set(id, info);
    const silent = library.instruments.filter(
      (one) => !sounds({ ...one, id: one.name, samples: Object.fromEntries(stored) }),
    );
    expect(silent.map((one) => one.name)).toEqual([]);
  });

  /** Plays a note of a preset for a moment; true when it is heard and nothing is out of bounds. */
  function sounds(instrument: Instrument): boolean {
    const audio = new Map<string, SampleAudio>();
    const [articulation] = instrument.articulations;
    for (const id of samplesOf(articulation, ['mix'])) audio.set(id, audioOf(instrument.samples[id]));
    expect(memoryBytes(instrument, audio.keys())).toBeGreaterThan(0);
    const engine = new Engine(32);
    engine.ensureTracks(1);
    engine.tracks[0].setInstrument(prepareInstrument(instrument, audio));
    engine.tracks[0].setMix(
      { gainDb: 0, pan: 0, muted: false, hallSendDb: -60, positions: { mix: PLAIN_POSITION } },
      48_000,
    );
    engine.reset();
    const zone = articulation.zones[articulation.zones.length >> 1];
    // At its own pitch where it may be: octaves up, a bird's call lies above what can be heard.
    const key = Math.min(zone.keyHigh, Math.max(zone.keyLow, Math.round(zone.rootKey)));
    engine.apply({
      kind: 'start',
      frame: 0,
      track: 0,
      sound: 1,
      articulation: 0,
      role: 'attack',
      key,
      velocity: Math.round((zone.velocityLow + zone.velocityHigh) / 2),
      fromKey: key,
      take: 0,
      offsetSeconds: 0,
      fadeInSeconds: 0,
    });
    const left = new Float32Array(128);
    const right = new Float32Array(128);
    let peak = 0;
    for (let b = 0; b < 400; b++) {
      engine.renderMix(left, right);
      for (const value of left) peak = Number.isFinite(value) ? Math.max(peak, Math.abs(value)) : Infinity;
    }
    expect(peak, instrument.name).toBeLessThan(8);
    return peak > 0.0005;
  }

  function audioOf(info: SampleInfo): SampleAudio {
    let bytes = packs.get(info.pack);
    if (!bytes) packs.set(info.pack, (bytes = readFileSync(packPath(folder, info.pack))));
    const width = info.channels * (info.format === 'i16' ? 2 : 4);
    const head = info.headFrames * width;
    const whole = Buffer.concat([
      bytes.subarray(info.headOffset, info.headOffset + head),
      bytes.subarray(info.tailOffset, info.tailOffset + info.frames * width - head),
    ]);
    const data =
      info.format === 'i16'
        ? new Int16Array(info.frames * info.channels)
        : new Float32Array(info.frames * info.channels);
    new Uint8Array(data.buffer).set(whole);
    return { data, channels: info.channels, frames: info.frames, rate: info.rate };
  }
});
