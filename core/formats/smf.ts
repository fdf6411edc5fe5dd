import { parseMidi } from 'midi-file';
import { FarloError } from '../errors/index.ts';
import { clamp, TICKS_PER_QUARTER } from '../units/index.ts';
import {
  BEND,
  MOST_FIFTHS,
  STANDARD_BPM,
  type KeyChange,
  type MetreChange,
  type TempoChange,
  BPM,
  METRE,
} from '../music/index.ts';
import { quoted } from './quoted.ts';
import { chunksOfSmf, type SmfChunks } from './smf-chunks.ts';
import type { Song, SongTrack } from './song.ts';

/** The fields Farlo reads and writes; the library's own type has one shape per message. */
export interface MidiEvent {
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
  key?: number;
  scale?: number;
}

const MOST_EVENTS = 2_000_000;

/**
 * Reads a Standard MIDI File of type 0 or 1. Each channel of each track becomes a track of its own.
 * Notes still sounding at the end of their track end there.
 * @throws FarloError naming the byte
 */
export function readSmf(bytes: Uint8Array, file: string): Song {
  const chunks = chunksOfSmf(bytes, file);
  let data;
  try {
    data = parseMidi(chunks.bytes);
  } catch (error) {
    throw new FarloError('file.damaged', `The MIDI file cannot be read: ${String(error)}.`, { file });
  }
  const { ticks } = chunks;
  const inFrames = 'perSecond' in ticks;
  // Seconds are counted as half notes at 120.
  const scale = TICKS_PER_QUARTER / (inFrames ? ticks.perSecond / 2 : ticks.perQuarter);
  const song: Song = { tempos: [], metres: [], keys: [], texts: [], tracks: [] };
  const passed = new Passed();
  let events = 0;
  for (const track of data.tracks) {
    events += track.length;
    if (events > MOST_EVENTS)
      throw new FarloError('file.too-large', `More than ${MOST_EVENTS} events.`, { file });
    readTrack(track as MidiEvent[], scale, song, passed);
  }
  const told = [...framesTold(chunks), ...passed.sentences(), ...chunks.others.map(otherTold)];
  // A file in frames has a time of its own: tempos are for display there.
  song.tempos = inFrames ? [] : boundTempos(lastPerTick(song.tempos), told);
  song.metres = boundMetres(lastPerTick(song.metres), told);
  song.keys = boundKeys(lastPerTick(song.keys), told);
  if (told.length > 0) song.told = told;
  return song;
}

const otherTold = (tag: string) =>
  `A part of the file called “${quoted(tag, 8)}” is no track and is passed over.`;

function framesTold({ ticks }: SmfChunks): string[] {
  return 'perSecond' in ticks
    ? [
        `The file counts time in film frames (${ticks.frames} a second, ${ticks.perFrame} parts each); it is read at 120 quarters a minute, so that every event keeps its time.`,
      ]
    : [];
}

/** Tempos as a cue takes them. Before the first one 120 holds, says the standard. */
function boundTempos(tempos: readonly TempoChange[], told: string[]): TempoChange[] {
  const bound = tempos.map(({ tick, bpm }) => {
    const held = clamp(bpm, BPM.low, BPM.high);
    if (Math.abs(held - bpm) > 0.01)
      told.push(
        `The tempo of ${bpm.toPrecision(3)} quarters a minute at quarter ${placeOf(tick)} is taken as ${held}.`,
      );
    return { tick, bpm: held };
  });
  return bound.length > 0 && bound[0].tick > 0 ? [{ tick: 0, bpm: STANDARD_BPM }, ...bound] : bound;
}

/** Metres as a cue takes them; before the first one 4/4 holds, says the standard. */
function boundMetres(metres: readonly MetreChange[], told: string[]): MetreChange[] {
  const bound = metres.filter(({ tick, numerator, denominator }) => {
    const fits = numerator >= 1 && numerator <= METRE.mostBeats && METRE.beats.includes(denominator);
    if (!fits) told.push(`The metre ${numerator}/${denominator} at quarter ${placeOf(tick)} is passed over.`);
    return fits;
  });
  return bound.length > 0 && bound[0].tick > 0
    ? [{ tick: 0, numerator: 4, denominator: 4 }, ...bound]
    : bound;
}

/** Key signatures as a cue takes them. */
function boundKeys(keys: readonly KeyChange[], told: string[]): KeyChange[] {
  return keys.filter(({ tick, fifths }) => {
    const fits = Number.isInteger(fifths) && Math.abs(fifths) <= MOST_FIFTHS;
    if (!fits)
      told.push(`A key signature at quarter ${placeOf(tick)} is none of the usual and is passed over.`);
    return fits;
  });
}

const placeOf = (tick: number) => Math.floor(tick / TICKS_PER_QUARTER) + 1;

/** Messages that a cue has no place for, counted. */
class Passed {
  private readonly counts = new Map<string, { count: number; many: string }>();
  private readonly sayings: string[] = [];

  take(event: MidiEvent): void {
    switch (event.type) {
      case 'noteAftertouch':
      case 'channelAftertouch':
        this.count('message of pressure', 'messages of pressure');
        break;
      case 'sysEx':
      case 'endSysEx':
        this.count('system message');
        break;
      case 'copyrightNotice':
        this.sayings.push(`Copyright, not kept: “${quoted(utf8(event.text ?? ''))}”.`);
        break;
      case 'instrumentName':
        this.sayings.push(`Name of an instrument, not kept: “${quoted(utf8(event.text ?? ''))}”.`);
        break;
      case 'endOfTrack':
        break;
      default:
        this.count('event for other programs', 'events for other programs');
    }
  }

  private count(one: string, many = `${one}s`): void {
    const known = this.counts.get(one);
    if (known) known.count++;
    else this.counts.set(one, { count: 1, many });
  }

  sentences(): string[] {
    return [
      ...new Set(this.sayings),
      ...[...this.counts].map(
        ([one, { count, many }]) => `Passed over: ${count} ${count === 1 ? one : many}.`,
      ),
    ];
  }
}

function readTrack(events: readonly MidiEvent[], scale: number, song: Song, passed: Passed): void {
  const channels = new Map<number, SongTrack>();
  const open = new Map<number, Sounding>();
  let name = '';
  let raw = 0;
  const texts: { tick: number; text: string }[] = [];
  const syllables: { tick: number; text: string }[] = [];
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
        const begun = { tick, velocity: event.velocity ?? 64 };
        const sounding = open.get(id);
        if (sounding) sounding.list.push(begun);
        else open.set(id, { list: [begun], first: 0 });
        of(channel);
        break;
      }
      case 'noteOff': {
        const sounding = open.get(channel * 128 + key);
        const started = sounding?.list[sounding.first];
        if (sounding && started) {
          sounding.first++;
          of(channel).notes.push({
            startTick: started.tick,
            endTick: Math.max(tick, started.tick + 1),
            key,
            velocity: started.velocity,
          });
        }
        break;
      }
      case 'controller':
        of(channel).controls.push({ tick, controller: event.controllerType ?? 0, value: event.value ?? 0 });
        break;
      case 'pitchBend':
        of(channel).controls.push({
          tick,
          controller: BEND,
          value: 64 + (event.value ?? 0) / 128,
        });
        break;
      case 'programChange':
        of(channel).programs.push({ tick, program: event.programNumber ?? 0 });
        break;
      case 'lyrics':
        syllables.push({ tick, text: utf8(event.text ?? '') });
        break;
      case 'setTempo':
        song.tempos.push({ tick, bpm: 60e6 / (event.microsecondsPerBeat ?? 500000) });
        break;
      case 'timeSignature':
        song.metres.push({ tick, numerator: event.numerator ?? 4, denominator: event.denominator ?? 4 });
        break;
      case 'keySignature':
        song.keys.push({ tick, fifths: event.key ?? 0 });
        break;
      case 'trackName':
        name ||= utf8(event.text ?? '');
        break;
      case 'text':
      case 'marker':
      case 'cuePoint':
        texts.push({ tick, text: utf8(event.text ?? '') });
        break;
      default:
        passed.take(event);
    }
  }
  const end = Math.round(raw * scale);
  for (const [id, { list, first }] of open)
    for (const { tick, velocity } of list.slice(first))
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
  texts.push(...sung(made, syllables));
  if (made.length === 1) made[0].texts = texts;
  else song.texts.push(...texts);
}

/** Gives syllables to the notes that begin with them; what is left over are texts. */
function sung(
  tracks: readonly SongTrack[],
  syllables: readonly { tick: number; text: string }[],
): { tick: number; text: string }[] {
  if (syllables.length === 0) return [];
  const notes = new Map(tracks.flatMap((track) => track.notes).map((note) => [note.startTick, note]));
  return syllables.filter(({ tick, text }) => {
    const note = notes.get(tick);
    const syllable = text.trim();
    if (note && syllable !== '') note.syllable = note.syllable ? `${note.syllable} ${syllable}` : syllable;
    return !note && syllable !== '';
  });
}

/** Notes of one key that have begun, in order, and which of them ends next. */
interface Sounding {
  list: { tick: number; velocity: number }[];
  first: number;
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

function lastPerTick<T extends { tick: number }>(changes: T[]): T[] {
  const byTick = new Map(changes.map((change) => [change.tick, change]));
  return [...byTick.values()].sort((a, b) => a.tick - b.tick);
}
