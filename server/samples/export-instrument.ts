import { Uint8ArrayReader, TextReader, ZipWriter } from '@zip.js/zip.js';
import { createWriteStream, mkdirSync, renameSync, rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { Writable } from 'node:stream';
import { frameBytes, type Instrument, type SampleInfo } from '#core/catalogue/index.ts';
import { wavHeader, writeSfz } from '#core/formats/index.ts';
import { readSampleBytes } from './read-sample.ts';
import type { Progress } from './take-in.ts';

/**
 * Writes an instrument as SFZ with its WAV files into a zip; taken in again it gives the same model. The file appears
 * under its name only when it is complete.
 * @throws FarloError naming the pack when a recording is no longer on the disk
 */
export async function exportInstrument(
  instrument: Instrument,
  dataFolder: string,
  path: string,
  progress: Progress,
  library = '',
): Promise<void> {
  const { text, files } = writeSfz(instrument, (id) => instrument.samples[id]?.rate ?? 1, 'samples', library);
  mkdirSync(dirname(path), { recursive: true });
  const draft = `${path}.part`;
  const zip = new ZipWriter(Writable.toWeb(createWriteStream(draft)) as WritableStream<Uint8Array>, {
    // Recordings hardly get smaller by it, and time matters more.
    level: 0,
    useWebWorkers: false,
  });
  try {
    const folder = fileName(instrument.name);
    await zip.add(`${folder}/${folder}.sfz`, new TextReader(text));
    let done = 0;
    for (const [file, id] of files) {
      const wav = wavOf(instrument.samples[id], dataFolder);
      await zip.add(`${folder}/${file}`, new Uint8ArrayReader(wav));
      progress(++done / files.size, `Writing ${file}`);
    }
    await zip.close();
    renameSync(draft, path);
  } catch (error) {
    rmSync(draft, { force: true });
    throw error;
  }
}

/** A name without what file systems refuse. */
export function fileName(name: string): string {
  return (
    name
      .replace(/[\\/:*?"<>|\p{Cc}]+/gu, ' ')
      .trim()
      .slice(0, 80) || 'instrument'
  );
}

function wavOf(sample: SampleInfo, dataFolder: string): Uint8Array {
  const header = wavHeader(sample.format, sample.rate, sample.channels, sample.frames);
  const out = new Uint8Array(header.length + sample.frames * frameBytes(sample));
  out.set(header);
  readSampleBytes(dataFolder, sample, out, header.length);
  return out;
}
