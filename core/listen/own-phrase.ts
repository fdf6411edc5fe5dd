import type { CurvePoint, Note, Part } from '../music/index.ts';
import { TICKS_PER_QUARTER } from '../units/index.ts';
import type { WrittenPhrase } from './phrases.ts';

type Cut = [startTick: number, endTick: number, key: number, velocity: number][];
type CutMarks = [startTick: number, endTick: number, articulation: string][];
type CutPoints = [controller: number, tick: number, value: number][];

/** A stretch [from, to) of a part as a phrase of its own: notes that start in it, their marks, the curves over it. */
export function cutPhrase(part: Part, fromTick: number, toTick: number): WrittenPhrase {
  const notes = part.notes
    .filter((note) => note.startTick >= fromTick && note.startTick < toTick)
    .map((note) => ({
      ...note,
      startTick: note.startTick - fromTick,
      endTick: Math.min(note.endTick, toTick) - fromTick,
    }));
  const marks = part.marks
    .filter((mark) => mark.startTick < toTick && mark.endTick > fromTick)
    .map((mark) => ({
      ...mark,
      startTick: Math.max(0, mark.startTick - fromTick),
      endTick: Math.min(mark.endTick, toTick) - fromTick,
    }));
  const controllers = [...new Set(part.points.map((point) => point.controller))];
  const points = controllers.flatMap((controller) => {
    const own = part.points
      .filter((point) => point.controller === controller)
      .sort((a, b) => a.tick - b.tick);
    // What holds when the stretch begins comes along.
    const before = own.filter((point) => point.tick <= fromTick).at(-1);
    const inside = own.filter((point) => point.tick > fromTick && point.tick <= toTick);
    return [...(before ? [{ ...before, tick: fromTick }] : []), ...inside].map((point) => ({
      ...point,
      tick: point.tick - fromTick,
    }));
  });
  return { part: { notes, marks, points }, endTick: toTick - fromTick };
}

/** A phrase as text to be kept. */
export function phraseText({ part, endTick }: WrittenPhrase): string {
  return JSON.stringify({
    endTick,
    notes: part.notes.map(({ startTick, endTick: end, key, velocity }) => [startTick, end, key, velocity]),
    marks: part.marks.map(({ startTick, endTick: end, articulation }) => [startTick, end, articulation]),
    points: part.points.map(({ controller, tick, value }) => [controller, tick, value]),
  });
}

/** Inverse of `phraseText`; undefined when the text is none. */
export function readPhrase(text: string): WrittenPhrase | undefined {
  try {
    const kept = JSON.parse(text) as { endTick: number; notes: Cut; marks: CutMarks; points: CutPoints };
    if (!Number.isFinite(kept.endTick)) return undefined;
    return {
      endTick: kept.endTick,
      part: {
        notes: kept.notes.map(([startTick, endTick, key, velocity], i) => ({
          id: `own ${i}`,
          startTick,
          endTick,
          key,
          velocity,
        })),
        marks: kept.marks.map(([startTick, endTick, articulation], i) => ({
          id: `own mark ${i}`,
          startTick,
          endTick,
          articulation,
        })),
        points: kept.points.map(([controller, tick, value], i) => ({
          id: `own point ${i}`,
          controller,
          tick,
          value,
        })),
      },
    };
  } catch {
    return undefined;
  }
}

/** A phrase moved by octaves to where most of it can be played. */
export function intoRange(phrase: WrittenPhrase, range: { low: number; high: number }): WrittenPhrase {
  const outside = (shift: number) =>
    phrase.part.notes.filter(({ key }) => key + shift < range.low || key + shift > range.high).length;
  const shifts = [0, -12, 12, -24, 24, -36, 36];
  const best = shifts.reduce((a, b) => (outside(b) < outside(a) ? b : a));
  if (best === 0) return phrase;
  return {
    ...phrase,
    part: { ...phrase.part, notes: phrase.part.notes.map((note) => ({ ...note, key: note.key + best })) },
  };
}

/** A message of a keyboard and when it came, in seconds. */
export interface PlayedMessage {
  seconds: number;
  status: number;
  data1: number;
  data2: number;
}

/**
 * What was played on a keyboard as a phrase that begins with its first note: notes with their velocities, controllers as
 * curves. Notes still held at the end are let go there. Undefined when no note was played.
 */
export function playedPhrase(
  messages: readonly PlayedMessage[],
  bpm: number,
  endSeconds: number,
): WrittenPhrase | undefined {
  const isNote = ({ status, data2 }: PlayedMessage) => (status & 0xf0) === 0x90 && data2 > 0;
  const start = messages.find(isNote)?.seconds;
  if (start === undefined) return undefined;
  const tick = (seconds: number) =>
    Math.max(0, Math.round(((seconds - start) * bpm * TICKS_PER_QUARTER) / 60));
  const notes: Note[] = [];
  const points: CurvePoint[] = [];
  const held = new Map<number, Note>();
  const letGo = (key: number, seconds: number) => {
    const note = held.get(key);
    if (note) note.endTick = Math.max(note.startTick + 1, tick(seconds));
    held.delete(key);
  };
  for (const message of messages) {
    const { seconds, status, data1, data2 } = message;
    const kind = status & 0xf0;
    if (kind === 0x90 || kind === 0x80) letGo(data1, seconds);
    if (isNote(message)) {
      const at = tick(seconds);
      const note = { id: `own ${notes.length}`, startTick: at, endTick: at + 1, key: data1, velocity: data2 };
      notes.push(note);
      held.set(data1, note);
    } else if (kind === 0xb0)
      points.push({ id: `own point ${points.length}`, controller: data1, tick: tick(seconds), value: data2 });
  }
  for (const key of held.keys()) letGo(key, endSeconds);
  const last = Math.max(...notes.map((note) => note.endTick));
  return { part: { notes, marks: [], points: lastAtEachTick(points) }, endTick: last + TICKS_PER_QUARTER };
}

/** A curve has one value at a time: of several at one tick the last counts. */
function lastAtEachTick(points: readonly CurvePoint[]): CurvePoint[] {
  return [...new Map(points.map((point) => [`${point.controller} ${point.tick}`, point])).values()];
}
