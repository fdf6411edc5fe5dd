import { FarloError } from '../errors/index.ts';
import { ByteReader } from './byte-reader.ts';

/** A Standard MIDI File as its chunks say: walked through before anything is parsed, so that what is wrong has a place. */
export interface SmfChunks {
  /** The file with its header and its tracks alone. */
  bytes: Uint8Array;
  /** Ticks of the file: a quarter, or a second where it counts time in film frames. */
  ticks: { perQuarter: number } | { perSecond: number; frames: number; perFrame: number };
  /** Names of chunks that are no tracks: the standard lets readers pass over them. */
  others: string[];
}

const MOST_TICKS_PER_FRAME = 255;
const FRAME_RATES = [24, 25, 29, 30];

/** @throws FarloError naming the byte */
export function chunksOfSmf(bytes: Uint8Array, file: string): SmfChunks {
  const reader = new ByteReader(bytes, file);
  if (reader.tag('The file header') !== 'MThd')
    throw new FarloError(
      'file.not-this-format',
      'This is no Standard MIDI File: it does not begin with “MThd”.',
      { file, byte: 0 },
    );
  const headerSize = reader.u32be('The file header');
  if (headerSize < 6)
    throw new FarloError(
      'file.damaged',
      `The header says it is ${headerSize} bytes long; at least 6 are needed.`,
      { file, byte: 4 },
    );
  reader.need(headerSize, 'The file header');
  const format = reader.u16be('The file header');
  const count = reader.u16be('The file header');
  const division = reader.u16be('The file header');
  if (format > 1)
    throw new FarloError(
      'file.unsupported',
      `MIDI files of type ${format} hold separate patterns; types 0 and 1 can be read.`,
      { file, byte: 8 },
    );
  const ticks = ticksOf(division, file);
  reader.at = 8 + headerSize;
  const tracks: Uint8Array[] = [];
  const others: string[] = [];
  while (tracks.length < count) {
    const what = `Track ${tracks.length + 1} of ${count}`;
    const start = reader.at;
    const tag = reader.tag(what);
    const size = reader.u32be(what);
    reader.need(size, what);
    if (tag === 'MTrk') {
      checkEvents(bytes, reader.at, reader.at + size, file);
      tracks.push(bytes.subarray(start, reader.at + size));
    } else others.push(tag);
    reader.at += size;
  }
  return { bytes: joined(format, division, tracks), ticks, others };
}

/** The upper byte of a division in frames is their rate, below zero; the lower, the ticks of a frame. */
function ticksOf(division: number, file: string): SmfChunks['ticks'] {
  if (division === 0)
    throw new FarloError('file.damaged', 'The file has 0 ticks per quarter note.', { file, byte: 12 });
  if ((division & 0x8000) === 0) return { perQuarter: division };
  const frames = 256 - (division >> 8);
  const perFrame = division & MOST_TICKS_PER_FRAME;
  if (!FRAME_RATES.includes(frames) || perFrame === 0)
    throw new FarloError(
      'file.damaged',
      `The file counts ${frames} film frames a second with ${perFrame} ticks each; 24, 25, 29 (drop) and 30 frames are known.`,
      { file, byte: 12 },
    );
  // What is written as 29 is 30 frames in 1.001 seconds.
  const perSecond = (frames === 29 ? 30_000 / 1001 : frames) * perFrame;
  return { perSecond, frames, perFrame };
}

function joined(format: number, division: number, tracks: readonly Uint8Array[]): Uint8Array {
  const length = tracks.reduce((sum, one) => sum + one.length, 14);
  const out = new Uint8Array(length);
  const view = new DataView(out.buffer);
  out.set([...'MThd'].map((letter) => letter.charCodeAt(0)));
  view.setUint32(4, 6);
  view.setUint16(8, format);
  view.setUint16(10, tracks.length);
  // Ticks a quarter, whatever they are: the places of events are what counts.
  view.setUint16(12, division & 0x8000 ? 480 : division);
  let at = 14;
  for (const track of tracks) {
    out.set(track, at);
    at += track.length;
  }
  return out;
}

/** Walks the events of one track: every length must stay inside, every status byte must be known. */
function checkEvents(bytes: Uint8Array, from: number, to: number, file: string): void {
  let at = from;
  let running = 0;
  const fail = (sentence: string): never => {
    throw new FarloError('file.damaged', sentence, { file, byte: at });
  };
  const byte = () => (at < to ? bytes[at++] : fail('A track ends in the middle of an event.'));
  const length = () => {
    let value = 0;
    for (let i = 0; i < 4; i++) {
      const b = byte();
      value = value * 128 + (b & 127);
      if (b < 128) return value;
    }
    return fail('A length is written with more than four bytes.');
  };
  while (at < to) {
    length();
    let status = byte();
    if (status < 0x80) {
      if (running === 0) fail('An event leaves out its status byte where none was given before.');
      status = running;
      at--;
    } else if (status < 0xf0) running = status;
    if (status === 0xff) {
      byte();
      const size = length();
      if (at + size > to) fail('A text or tempo event reaches past the end of its track.');
      at += size;
    } else if (status === 0xf0 || status === 0xf7) {
      const size = length();
      if (at + size > to) fail('A system message reaches past the end of its track.');
      at += size;
    } else if (status >= 0xf0) fail(`Status byte ${status.toString(16)} has no place in a file.`);
    else {
      const count = status >= 0xc0 && status < 0xe0 ? 1 : 2;
      for (let i = 0; i < count; i++) if (byte() > 127) fail('A data byte is above 127.');
    }
  }
}
