import { closeSync, openSync, readSync } from 'node:fs';
import { frameBytes, type SampleInfo } from '#core/catalogue/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { packPath } from './pack-writer.ts';

/**
 * Reads a sample's bytes out of its pack: interleaved frames. @param into where they go, from `at` on
 * @throws FarloError naming the pack when it is no longer on the disk
 */
export function readSampleBytes(dataFolder: string, sample: SampleInfo, into: Uint8Array, at = 0): void {
  const width = frameBytes(sample);
  const head = sample.headFrames * width;
  const rest = sample.frames * width - head;
  let file: number;
  try {
    file = openSync(packPath(dataFolder, sample.pack), 'r');
  } catch {
    throw packGone(sample.pack);
  }
  try {
    const got =
      readSync(file, into, at, head, sample.headOffset) +
      readSync(file, into, at + head, rest, sample.tailOffset);
    if (got < head + rest) throw packGone(sample.pack);
  } finally {
    closeSync(file);
  }
}

/** A sample as channels of floats. @throws FarloError when its pack is gone */
export function readSample(
  dataFolder: string,
  sample: SampleInfo,
): { channels: Float32Array[]; rate: number } {
  const bytes = new Uint8Array(sample.frames * frameBytes(sample));
  readSampleBytes(dataFolder, sample, bytes);
  const { channels: count, frames } = sample;
  const whole = sample.format === 'i16';
  const data = whole ? new Int16Array(bytes.buffer) : new Float32Array(bytes.buffer);
  const scale = whole ? 1 / 32768 : 1;
  const channels = Array.from({ length: count }, (_, c) => {
    const channel = new Float32Array(frames);
    for (let i = 0; i < frames; i++) channel[i] = data[i * count + c] * scale;
    return channel;
  });
  return { channels, rate: sample.rate };
}

function packGone(pack: string): FarloError {
  return new FarloError(
    'sample.missing',
    'The audio of this instrument is no longer on the disk. Take the library in again.',
    { file: pack },
  );
}
