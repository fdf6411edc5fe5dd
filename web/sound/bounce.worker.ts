import { BlobReader, BlobWriter, ZipWriter } from '@zip.js/zip.js';
import { BounceMix, readStretch, Stretches, STRETCH_FRAMES } from '#core/deliver/index.ts';
import { SoundMemory } from '#core/engine/index.ts';
import {
  WORD,
  type BouncedFile,
  type BounceGroup,
  type MixAnswer,
  type MixRequest,
} from './bounce-protocol.ts';
import { FileWriter } from './file-writer.ts';
import { openOnDisk, writeWhole } from './folders.ts';

const LEAST_MS_BETWEEN = 80;
const ZIP = 'application/zip';

const answer = (message: MixAnswer) => self.postMessage(message);

self.onmessage = ({ data }: MessageEvent<MixRequest>) => {
  const work = data.kind === 'mix' ? mixAll(data) : zip(data);
  work.catch((error: Error) => answer({ kind: 'failed', message: error.message }));
};

/** Adds what the shares render, in the order of the tracks, until the last tail is over. */
async function mixAll(request: Extract<MixRequest, { kind: 'mix' }>): Promise<void> {
  const { control, format, folder, groups } = request;
  const sound = SoundMemory.within(request.shared.memory, request.shared.room);
  const places = new Stretches(request.address, request.tracks);
  const order = { ...request.order, instruments: [], events: [] };
  const mix = new BounceMix(order, places, sound);
  const whole = await FileWriter.open(format, folder);
  const hall = request.hallFile ? await FileWriter.open(format, folder) : undefined;
  const grouped: (BounceGroup & { writer: FileWriter })[] = [];
  for (const group of groups) grouped.push({ ...group, writer: await FileWriter.open(format, folder) });
  let told = 0;
  for (let stretch = 0; !mix.isOver; stretch++) {
    for (let word = WORD.rendered; word < control.length; word++) waitFor(control, word, stretch + 1);
    const out = mix.mix();
    whole.write(out.left, out.right);
    hall?.write(out.hallLeft, out.hallRight);
    for (const { tracks, writer } of grouped) writeGroup(places, sound, tracks, stretch, writer);
    if (mix.isOver) Atomics.store(control, WORD.over, 1);
    Atomics.store(control, WORD.mixed, stretch + 1);
    Atomics.notify(control, WORD.mixed);
    if (performance.now() - told < LEAST_MS_BETWEEN) continue;
    told = performance.now();
    answer({ kind: 'progress', frames: mix.frames, endFrame: request.order.endFrame });
  }
  const files: BouncedFile[] = [{ name: 'Mix', file: await whole.finish() }];
  for (const { name, writer } of grouped) files.push({ name, file: await writer.finish() });
  if (hall) files.push({ name: 'Hall', file: await hall.finish() });
  answer({ kind: 'done', files, figures: mix.figures(0) });
}

/** Waits until a share has rendered so many stretches. */
function waitFor(control: Int32Array, word: number, stretches: number): void {
  for (;;) {
    const done = Atomics.load(control, word);
    if (done >= stretches) return;
    Atomics.wait(control, word, done);
  }
}

const left = new Float32Array(STRETCH_FRAMES);
const right = new Float32Array(STRETCH_FRAMES);
const sumLeft = new Float32Array(STRETCH_FRAMES);
const sumRight = new Float32Array(STRETCH_FRAMES);

function writeGroup(
  places: Stretches,
  sound: SoundMemory,
  tracks: readonly number[],
  stretch: number,
  writer: FileWriter,
): void {
  sumLeft.fill(0);
  sumRight.fill(0);
  for (const track of tracks) {
    readStretch(places, sound, track, stretch, left, right);
    for (let i = 0; i < STRETCH_FRAMES; i++) {
      sumLeft[i] += left[i];
      sumRight[i] += right[i];
    }
  }
  writer.write(sumLeft, sumRight);
}

/** Puts files into one, as they are: sound does not get smaller. */
async function zip({ files, folder }: Extract<MixRequest, { kind: 'zip' }>): Promise<void> {
  const addAll = async <Into>(zipped: ZipWriter<Into>) => {
    for (const { name, file } of files) await zipped.add(name, new BlobReader(file));
    return zipped.close();
  };
  const options = { level: 0, useWebWorkers: false };
  if (!folder) {
    const file = await addAll(new ZipWriter(new BlobWriter(ZIP), options));
    answer({ kind: 'zipped', file });
    return;
  }
  const { handle, access } = await openOnDisk(folder);
  let at = 0;
  const into = new WritableStream<Uint8Array>({
    write: (bytes) => {
      at += writeWhole(access, bytes, at);
    },
  });
  await addAll(new ZipWriter(into, options));
  access.close();
  const file = await handle.getFile();
  answer({ kind: 'zipped', file: file.slice(0, file.size, ZIP) });
}
