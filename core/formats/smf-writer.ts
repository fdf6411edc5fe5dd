import { writeMidi, type MidiData } from 'midi-file';
import { BEND } from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import type { MidiEvent } from './smf.ts';
import type { Song, SongTrack } from './song.ts';

function toLatin(text: string): string {
  return encodeURIComponent(text).replace(/%([0-9A-F]{2})/g, (_, hex: string) =>
    String.fromCharCode(parseInt(hex, 16)),
  );
}

interface Timed {
  tick: number;
  rank: number;
  event: Omit<MidiEvent, 'deltaTime'>;
}

/** Writes type 1 with 960 ticks a quarter: a first track of tempo, metre and text, then one track per part. */
export function writeSmf(song: Song): Uint8Array {
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
    ...song.keys.map(({ tick, fifths }) => ({
      tick,
      rank: 0,
      event: { type: 'keySignature', meta: true, key: fifths, scale: 0 },
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
  const tracks = [first, ...song.tracks.map(trackEvents)].map((list) => bytesOf(toDeltas(list)));
  const header = { format: 1, numTracks: tracks.length, ticksPerBeat: TICKS_PER_QUARTER };
  const head = Uint8Array.from(writeMidi({ header, tracks: [] } as unknown as MidiData));
  // As many tracks as there are, not as many as were given.
  new DataView(head.buffer).setUint16(10, tracks.length);
  return concatenated([head, ...tracks]);
}

/** Events of one call: the package copies all it has for every long delay, so that what it is given at once must stay small. */
const SLICE = 256;
const CHUNK_HEAD = 8;
const FILE_HEAD = 14;

/** A track as a chunk. */
function bytesOf(events: readonly MidiEvent[]): Uint8Array {
  const header = { format: 1, ticksPerBeat: TICKS_PER_QUARTER };
  const pieces: Uint8Array[] = [];
  for (let at = 0; at < events.length; at += SLICE) {
    const slice = { header, tracks: [events.slice(at, at + SLICE)] };
    pieces.push(Uint8Array.from(writeMidi(slice as unknown as MidiData)).subarray(FILE_HEAD + CHUNK_HEAD));
  }
  const body = concatenated(pieces);
  const head = new Uint8Array(CHUNK_HEAD);
  head.set([...'MTrk'].map((letter) => letter.charCodeAt(0)));
  new DataView(head.buffer).setUint32(4, body.length);
  return concatenated([head, body]);
}

function concatenated(pieces: readonly Uint8Array[]): Uint8Array {
  const out = new Uint8Array(pieces.reduce((sum, one) => sum + one.length, 0));
  let at = 0;
  for (const piece of pieces) {
    out.set(piece, at);
    at += piece.length;
  }
  return out;
}

function trackEvents(track: SongTrack): Timed[] {
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
      c.controller === BEND
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
    if (n.syllable)
      list.push({
        tick: n.startTick,
        rank: 3,
        event: { type: 'lyrics', meta: true, text: toLatin(n.syllable) },
      });
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
