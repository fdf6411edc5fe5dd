import { parseMidi, writeMidi, type MidiData } from 'midi-file';
import { FarloError } from '../errors/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import type { MetreChange, TempoChange } from '../music/index.ts';
import { ByteReader } from './byte-reader.ts';

/** A note of a Standard MIDI File in Farlo's ticks (960 a quarter). */
export interface SmfNote {
  startTick: number;
  endTick: number;
  key: number;
  velocity: number;
}

/** A controller value; number 128 is pitch bend scaled to 0…127.99 with 64 in the middle. */
export interface SmfControl {
  tick: number;
  controller: number;
  value: number;
}

/** What one track holds of one channel. */
export interface SmfTrack {
  name: string;
  channel: number;
  notes: SmfNote[];
  controls: SmfControl[];
  programs: { tick: number; program: number }[];
  texts: { tick: number; text: string }[];
}

/** A Standard MIDI File as music. */
export interface SmfSong {
  tempos: TempoChange[];
  metres: MetreChange[];
  texts: { tick: number; text: string }[];
  tracks: SmfTrack[];
}

/** The fields Farlo reads and writes; the library's own type has one shape per message. */
interface MidiEvent {
  deltaTime: number;
  type: string;
  meta?: boolean;
  channel?: number;
  noteNumber?: number;
  velocity?: number;
  controllerType?: number;
  value?: number;
  programNumber?: number;
  microsecondsPerBeat?: number;
  numerator?: number;
  denominator?: number;
  metronome?: number;
  thirtyseconds?: number;
  text?: string;
}

const MOST_EVENTS = 2_000_000;
export const BEND_CONTROLLER = 128;

/**
 * Walks headers and chunk lengths before anything is parsed, so that truncation has a place.
 * @returns bytes of the file up to the last announced track (what follows is ignored by the standard)
 */
function checkChunks(bytes: Uint8Array, file: string): void {
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
  if (division & 0x8000)
    throw new FarloError(
      'file.unsupported',
      'The file counts time in film frames; export it with ticks per quarter note.',
      { file, byte: 12 },
    );
  if (division === 0)
    throw new FarloError('file.damaged', 'The file has 0 ticks per quarter note.', { file, byte: 12 });
  reader.at = 8 + headerSize;
  for (let track = 0; track < count;) {
    const start = reader.at;
    const tag = reader.tag(`Track ${track + 1} of ${count}`);
    const size = reader.u32be(`Track ${track + 1} of ${count}`);
    reader.need(size, `Track ${track + 1} of ${count}`);
    if (tag === 'MTrk') {
      checkEvents(bytes, reader.at, reader.at + size, file);
      track++;
    } else if (start === reader.at) break;
    reader.at += size;
  }
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

/**
 * Reads a Standard MIDI File of type 0 or 1. Each channel of each track becomes a track of its own.
 * Notes still sounding at the end of their track end there.
 * @throws FarloError naming the byte
 */
export function readSmf(bytes: Uint8Array, file: string): SmfSong {
  checkChunks(bytes, file);
  let data;
  try {
    data = parseMidi(bytes);
  } catch (error) {
    throw new FarloError('file.damaged', `The MIDI file cannot be read: ${String(error)}.`, { file });
  }
  const scale = TICKS_PER_QUARTER / (data.header.ticksPerBeat ?? 480);
  const song: SmfSong = { tempos: [], metres: [], texts: [], tracks: [] };
  let events = 0;
  for (const track of data.tracks) {
    events += track.length;
    if (events > MOST_EVENTS)
      throw new FarloError('file.too-large', `More than ${MOST_EVENTS} events.`, { file });
    readTrack(track as MidiEvent[], scale, song);
  }
  song.tempos = lastPerTick(song.tempos);
  song.metres = lastPerTick(song.metres);
  return song;
}

function readTrack(events: readonly MidiEvent[], scale: number, song: SmfSong): void {
  const channels = new Map<number, SmfTrack>();
  const open = new Map<number, { tick: number; velocity: number }[]>();
  let name = '';
  let raw = 0;
  const texts: { tick: number; text: string }[] = [];
  const of = (channel: number) => {
    let track = channels.get(channel);
    if (!track)
      channels.set(
        channel,
        (track = { name: '', channel, notes: [], controls: [], programs: [], texts: [] }),
      );
    return track;
  };
  for (const event of events) {
    raw += event.deltaTime;
    const tick = Math.round(raw * scale);
    const channel = event.channel ?? 0;
    const key = event.noteNumber ?? 0;
    switch (event.type) {
      case 'noteOn': {
        const id = channel * 128 + key;
        open.set(id, [...(open.get(id) ?? []), { tick, velocity: event.velocity ?? 64 }]);
        of(channel);
        break;
      }
      case 'noteOff': {
        const started = open.get(channel * 128 + key)?.shift();
        if (started)
          of(channel).notes.push({
            startTick: started.tick,
            endTick: Math.max(tick, started.tick + 1),
            key,
            velocity: started.velocity,
          });
        break;
      }
      case 'controller':
        of(channel).controls.push({ tick, controller: event.controllerType ?? 0, value: event.value ?? 0 });
        break;
      case 'pitchBend':
        of(channel).controls.push({
          tick,
          controller: BEND_CONTROLLER,
          value: 64 + (event.value ?? 0) / 128,
        });
        break;
      case 'programChange':
        of(channel).programs.push({ tick, program: event.programNumber ?? 0 });
        break;
      case 'setTempo':
        song.tempos.push({ tick, bpm: 60e6 / (event.microsecondsPerBeat ?? 500000) });
        break;
      case 'timeSignature':
        song.metres.push({ tick, numerator: event.numerator ?? 4, denominator: event.denominator ?? 4 });
        break;
      case 'trackName':
        name ||= utf8(event.text ?? '');
        break;
      case 'text':
      case 'marker':
      case 'lyrics':
      case 'cuePoint':
        texts.push({ tick, text: utf8(event.text ?? '') });
        break;
      default:
        break;
    }
  }
  const end = Math.round(raw * scale);
  for (const [id, starts] of open)
    for (const { tick, velocity } of starts)
      of(Math.floor(id / 128)).notes.push({
        startTick: tick,
        endTick: Math.max(end, tick + 1),
        key: id % 128,
        velocity,
      });
  const made = [...channels.values()];
  for (const track of made) {
    track.name =
      made.length > 1 ? `${name || 'Channel'} ${track.channel + 1}` : name || `Channel ${track.channel + 1}`;
    track.notes.sort((a, b) => a.startTick - b.startTick || a.key - b.key);
    song.tracks.push(track);
  }
  if (made.length === 1) made[0].texts = texts;
  else song.texts.push(...texts);
}

/** Text bytes arrive as Latin-1 characters; most files today are UTF-8. */
function utf8(latin: string): string {
  try {
    return decodeURIComponent(
      Array.from(latin, (c) => `%${c.charCodeAt(0).toString(16).padStart(2, '0')}`).join(''),
    );
  } catch {
    return latin;
  }
}

function toLatin(text: string): string {
  return encodeURIComponent(text).replace(/%([0-9A-F]{2})/g, (_, hex: string) =>
    String.fromCharCode(parseInt(hex, 16)),
  );
}

function lastPerTick<T extends { tick: number }>(changes: T[]): T[] {
  const byTick = new Map(changes.map((change) => [change.tick, change]));
  return [...byTick.values()].sort((a, b) => a.tick - b.tick);
}

interface Timed {
  tick: number;
  rank: number;
  event: Omit<MidiEvent, 'deltaTime'>;
}

/** Writes type 1 with 960 ticks a quarter: a first track of tempo, metre and text, then one track per part. */
export function writeSmf(song: SmfSong): Uint8Array {
  const first: Timed[] = [
    ...song.metres.map((m) => ({
      tick: m.tick,
      rank: 0,
      event: {
        type: 'timeSignature',
        meta: true,
        numerator: m.numerator,
        denominator: m.denominator,
        metronome: 24,
        thirtyseconds: 8,
      },
    })),
    ...song.tempos.map((t) => ({
      tick: t.tick,
      rank: 1,
      event: { type: 'setTempo', meta: true, microsecondsPerBeat: Math.round(60e6 / t.bpm) },
    })),
    ...song.texts.map((t) => ({
      tick: t.tick,
      rank: 2,
      event: { type: 'marker', meta: true, text: toLatin(t.text) },
    })),
  ];
  const tracks = [first, ...song.tracks.map(trackEvents)].map(toDeltas);
  const data = { header: { format: 1, numTracks: tracks.length, ticksPerBeat: TICKS_PER_QUARTER }, tracks };
  return new Uint8Array(writeMidi(data as MidiData));
}

function trackEvents(track: SmfTrack): Timed[] {
  const { channel } = track;
  const list: Timed[] = [
    { tick: 0, rank: 0, event: { type: 'trackName', meta: true, text: toLatin(track.name) } },
  ];
  for (const t of track.texts)
    list.push({ tick: t.tick, rank: 0, event: { type: 'text', meta: true, text: toLatin(t.text) } });
  for (const p of track.programs)
    list.push({ tick: p.tick, rank: 1, event: { type: 'programChange', channel, programNumber: p.program } });
  for (const c of track.controls)
    list.push(
      c.controller === BEND_CONTROLLER
        ? {
            tick: c.tick,
            rank: 2,
            event: { type: 'pitchBend', channel, value: Math.round((c.value - 64) * 128) },
          }
        : {
            tick: c.tick,
            rank: 2,
            event: { type: 'controller', channel, controllerType: c.controller, value: Math.round(c.value) },
          },
    );
  for (const n of track.notes) {
    // At one tick, ends come before beginnings, so that a repeated key is struck again.
    list.push({
      tick: n.startTick,
      rank: 4,
      event: { type: 'noteOn', channel, noteNumber: n.key, velocity: n.velocity },
    });
    list.push({
      tick: n.endTick,
      rank: 3,
      event: { type: 'noteOff', channel, noteNumber: n.key, velocity: 64 },
    });
  }
  return list;
}

function toDeltas(list: Timed[]): MidiEvent[] {
  list.sort((a, b) => a.tick - b.tick || a.rank - b.rank);
  let before = 0;
  const events = list.map(({ tick, event }) => {
    const deltaTime = tick - before;
    before = tick;
    return { deltaTime, ...event };
  });
  return [...events, { deltaTime: 0, type: 'endOfTrack', meta: true }];
}
