import type { Note } from './part.ts';
import { metreTicks, type MetreChange, type MetreMap } from './tempo-map.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';

/** Written lengths, by their names in MusicXML. */
export type NoteType = 'whole' | 'half' | 'quarter' | 'eighth' | '16th' | '32nd';

/** One key of a chord as it is written. */
export interface NotatedKey {
  noteId: string;
  key: number;
  /** It goes on from the event before it, or on to the next. */
  tiedFrom: boolean;
  tiedTo: boolean;
}

/** A chord or (without keys) a rest of one voice. */
export interface NotatedEvent {
  /** From the beginning of the bar. */
  tick: number;
  ticks: number;
  /** Undefined for a rest of a whole bar. */
  type: NoteType | undefined;
  dots: 0 | 1;
  /** Three in the time of two. */
  isTriplet: boolean;
  bracket?: 'start' | 'stop';
  keys: NotatedKey[];
}

export interface NotatedBar {
  startTick: number;
  ticks: number;
  /** Told with the first bar and where it changes. */
  metre?: MetreChange;
  /** One at least; a voice that has nothing in the bar is empty, but for the first, which rests. */
  voices: NotatedEvent[][];
}

/** Shortest written length: a thirty-second, and in a triplet a sixteenth of it. */
const STRAIGHT = 120;
const TRIPLET = 160;
const MOST_VOICES = 4;
/** Gaps and overlaps this short are how it is played, not how it is written. */
const PLAYED = 120;
/** A beat is written in triplets when its notes lie so much nearer to them, each. */
const NEARER = 24;

const VALUES: readonly [ticks: number, type: NoteType, dots: 0 | 1][] = [
  [5760, 'whole', 1],
  [3840, 'whole', 0],
  [2880, 'half', 1],
  [1920, 'half', 0],
  [1440, 'quarter', 1],
  [960, 'quarter', 0],
  [720, 'eighth', 1],
  [480, 'eighth', 0],
  [360, '16th', 1],
  [240, '16th', 0],
  [120, '32nd', 0],
];
const TRIPLET_VALUES: typeof VALUES = [
  [640, 'quarter', 0],
  [480, 'eighth', 1],
  [320, 'eighth', 0],
  [160, '16th', 0],
];

interface Chord {
  start: number;
  end: number;
  notes: Note[];
}

/**
 * Notes as they are written: drawn to thirty-seconds or triplets beat by beat, in up to four voices, cut at bar lines and beats into
 * lengths that can be written, and tied. @param endTick bars are written up to here, and as far as there are notes
 */
export function notate(notes: readonly Note[], metre: MetreMap, endTick: number): NotatedBar[] {
  // A note at the very end may be drawn into the bar behind it.
  const last = notes.reduce(
    (end, note) => Math.max(end, note.endTick, note.startTick + TRIPLET / 2 + 1),
    Math.max(1, endTick),
  );
  const bars = barsUpTo(metre, last);
  const beats = new Beats(notes, bars, metre);
  const voices = voicesOf(chordsOf(notes, beats));
  return bars.map(({ startTick, ticks, metre: told }) => {
    const own = voices.map((chords) => barOf(chords, { startTick, ticks }, metre, beats));
    while (own.length > 1 && own[own.length - 1].length === 0) own.pop();
    if ((own[0]?.length ?? 0) === 0)
      own[0] = [{ tick: 0, ticks, type: undefined, dots: 0, isTriplet: false, keys: [] }];
    return { startTick, ticks, ...(told ? { metre: told } : {}), voices: own };
  });
}

type Bar = Pick<NotatedBar, 'startTick' | 'ticks' | 'metre'>;

function barsUpTo(metre: MetreMap, last: number): Bar[] {
  const bars: Bar[] = [];
  let before: MetreChange | undefined;
  for (let number = 1, start = 0; start < last; number++) {
    const end = metre.barStart(number + 1);
    const now = metre.at(start);
    bars.push({ startTick: start, ticks: end - start, ...(now === before ? {} : { metre: now }) });
    before = now;
    start = end;
  }
  return bars;
}

/** Which quarters, counted from their bar, are written in triplets, and where ticks are drawn to. */
class Beats {
  private readonly triplets = new Set<number>();
  private readonly starts: number[];

  constructor(
    notes: readonly Note[],
    private readonly bars: readonly Bar[],
    metre: MetreMap,
  ) {
    this.starts = bars.map(({ startTick }) => startTick);
    const beside = new Map<number, { count: number; straight: number; triplet: number }>();
    for (const { startTick } of notes) {
      const { start, length } = this.beatAt(startTick);
      const past = startTick - start;
      if (length < TICKS_PER_QUARTER || past > length - STRAIGHT / 2) continue;
      // Where bars are counted in eighths, or in threes of them, quarters are no beats.
      if (beatOf(metre.at(start)).beat % TICKS_PER_QUARTER !== 0) continue;
      const sum = beside.get(start) ?? { count: 0, straight: 0, triplet: 0 };
      sum.count++;
      sum.straight += Math.abs(past - Math.round(past / STRAIGHT) * STRAIGHT);
      sum.triplet += Math.abs(past - Math.round(past / TRIPLET) * TRIPLET);
      beside.set(start, sum);
    }
    for (const [start, { count, straight, triplet }] of beside)
      if (straight - triplet > NEARER * Math.max(1, count - 1)) this.triplets.add(start);
  }

  private barAt(tick: number): Bar {
    let low = 0;
    let high = this.starts.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.starts[middle] <= tick) low = middle;
      else high = middle - 1;
    }
    return this.bars[low];
  }

  /** The quarter of a bar in which a tick lies; the last one of a bar may be shorter. */
  beatAt(tick: number): { start: number; length: number } {
    const { startTick, ticks } = this.barAt(tick);
    const past = Math.floor((tick - startTick) / TICKS_PER_QUARTER) * TICKS_PER_QUARTER;
    return { start: startTick + past, length: Math.min(TICKS_PER_QUARTER, Math.max(1, ticks - past)) };
  }

  isTriplet(start: number): boolean {
    return this.triplets.has(start);
  }

  /** Whether a tick lies within a beat in triplets, not at its beginning. */
  isAmongTriplets(tick: number): boolean {
    const { start } = this.beatAt(tick);
    return this.triplets.has(start) && tick > start;
  }

  drawn(tick: number): number {
    const { start, length } = this.beatAt(tick);
    const step = this.triplets.has(start) ? TRIPLET : STRAIGHT;
    return start + Math.min(length, Math.round((tick - start) / step) * step);
  }
}

/** Notes that begin and end together, in time order. */
function chordsOf(notes: readonly Note[], beats: Beats): Chord[] {
  const drawn = notes
    .map((note) => ({ note, start: beats.drawn(note.startTick), end: beats.drawn(note.endTick) }))
    .sort((a, b) => a.start - b.start || b.note.key - a.note.key);
  const starts = [...new Set(drawn.map(({ start }) => start))];
  const next = new Map(starts.map((start, i) => [start, starts[i + 1] ?? Infinity]));
  const chords = new Map<string, Chord>();
  for (const { note, start, end: written } of drawn) {
    const after = next.get(start) ?? Infinity;
    let end = Math.max(written, start + STRAIGHT);
    if (Math.abs(end - after) <= PLAYED) end = after;
    end = Math.max(end, Math.min(after, beats.drawn(start + STRAIGHT + 1)), start + 1);
    const name = `${start} ${end}`;
    const chord = chords.get(name);
    if (chord) chord.notes.push(note);
    else chords.set(name, { start, end, notes: [note] });
  }
  return [...chords.values()];
}

/** Chords that overlap in voices of their own; when there are too many, the one that has sounded longest ends. */
function voicesOf(chords: readonly Chord[]): Chord[][] {
  const voices: Chord[][] = [];
  for (const chord of chords) {
    const free = voices.find((voice) => (voice.at(-1)?.end ?? 0) <= chord.start);
    if (free) free.push(chord);
    else if (voices.length < MOST_VOICES) voices.push([chord]);
    else {
      const [longest] = [...voices].sort((a, b) => (a.at(-1)?.start ?? 0) - (b.at(-1)?.start ?? 0));
      const held = longest.at(-1);
      if (held && held.start < chord.start) {
        held.end = chord.start;
        longest.push(chord);
      } else if (held) held.notes.push(...chord.notes);
    }
  }
  return voices.length > 0 ? voices : [[]];
}

/** One voice of one bar: chords and rests between them, cut into what can be written. */
function barOf(
  chords: readonly Chord[],
  { startTick, ticks }: Bar,
  metre: MetreMap,
  beats: Beats,
): NotatedEvent[] {
  const end = startTick + ticks;
  const own = chords.filter((chord) => chord.start < end && chord.end > startTick);
  if (own.length === 0) return [];
  const { beat, inThrees } = beatOf(metre.at(startTick));
  const events: NotatedEvent[] = [];
  let at = startTick;
  const write = (to: number, chord: Chord | undefined) => {
    for (const piece of pieces(at, to, {
      startTick,
      ticks,
      beat,
      inThrees,
      beats,
      isRest: chord === undefined,
    })) {
      const from = at;
      at += piece.ticks;
      events.push({
        tick: from - startTick,
        ...piece,
        keys: (chord?.notes ?? []).map(({ id, key }) => ({
          noteId: id,
          key,
          tiedFrom: chord !== undefined && from > chord.start,
          tiedTo: chord !== undefined && at < chord.end,
        })),
      });
    }
  };
  for (const chord of own) {
    if (chord.start > at) write(chord.start, undefined);
    write(Math.min(end, chord.end), chord);
  }
  if (at < end) write(end, undefined);
  bracket(events, startTick, beats);
  return events;
}

/** Where lengths are cut: at beats, at threes of them in compound bars. */
function beatOf(metre: MetreChange): { beat: number; inThrees: boolean } {
  const { beat } = metreTicks(metre);
  const inThrees = metre.denominator >= 8 && metre.numerator % 3 === 0;
  return { beat: inThrees ? 3 * beat : beat, inThrees };
}

/** A bar as lengths are cut in it. */
interface Cutting {
  startTick: number;
  ticks: number;
  beat: number;
  inThrees: boolean;
  beats: Beats;
  isRest: boolean;
}

/** Lengths from one place of a bar to another. */
function pieces(
  from: number,
  to: number,
  cutting: Cutting,
): Pick<NotatedEvent, 'ticks' | 'type' | 'dots' | 'isTriplet'>[] {
  const { startTick, beat, beats } = cutting;
  const list: Pick<NotatedEvent, 'ticks' | 'type' | 'dots' | 'isTriplet'>[] = [];
  for (let at = from; at < to;) {
    const window = beats.beatAt(at);
    const isPart = at > window.start || to < window.start + window.length;
    const isTriplet = beats.isTriplet(window.start) && isPart;
    const past = (at - startTick) % beat;
    let limit = isTriplet ? Math.min(to, window.start + window.length) : to;
    if (!isTriplet && past !== 0) limit = Math.min(limit, at - past + beat);
    // A length that ends among triplets would leave what cannot be written.
    const ends = (length: number) => isTriplet || !beats.isAmongTriplets(at + length);
    const [ticks, type, dots] = (isTriplet ? TRIPLET_VALUES : VALUES).find(
      ([length]) => length <= limit - at && ends(length) && showsBeats(length, at - startTick, cutting),
    ) ?? [limit - at, '32nd', 0];
    list.push({ ticks, type, dots, isTriplet });
    at += ticks;
  }
  return list;
}

/** Whether a length that begins at a place of its bar leaves its beats to be seen. */
function showsBeats(length: number, past: number, { ticks, beat, inThrees, isRest }: Cutting): boolean {
  if (length <= beat) return true;
  // In compound bars half a beat more would hide where beats lie.
  if (inThrees) return length % beat === 0;
  // Notes are held through the middle of a bar; rests stand where it falls into such parts. Of beats of eighths there are none to hide.
  if (!isRest || beat < TICKS_PER_QUARTER) return true;
  return length % beat === 0 && ticks % length === 0 && past % length === 0;
}

/** Says where the triplets of a beat begin and end. */
function bracket(events: readonly NotatedEvent[], startTick: number, beats: Beats): void {
  events.forEach((event, i) => {
    if (!event.isTriplet) return;
    const beatOfEvent = (one: NotatedEvent | undefined) =>
      one?.isTriplet ? beats.beatAt(startTick + one.tick).start : undefined;
    const own = beatOfEvent(event);
    const first = beatOfEvent(events[i - 1]) !== own;
    const last = beatOfEvent(events[i + 1]) !== own;
    if (first !== last) event.bracket = first ? 'start' : 'stop';
  });
}
