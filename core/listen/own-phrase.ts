import { isStruck, TempoMap, writePlayed, type Part, type PlayedMessage } from '../music/index.ts';
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

/**
 * What was played on a keyboard as a phrase that begins with its first note: notes with their velocities, controllers as
 * curves. Notes still held at the end are let go there. Undefined when no note was played.
 */
export function playedPhrase(
  messages: readonly PlayedMessage[],
  bpm: number,
  endSeconds: number,
): WrittenPhrase | undefined {
  const start = messages.find(isStruck)?.seconds;
  if (start === undefined) return undefined;
  const { notes, ridden } = writePlayed(
    // What a hand has set before it plays holds from the beginning.
    messages.map((message) => ({ ...message, seconds: Math.max(0, message.seconds - start) })),
    new TempoMap([{ tick: 0, bpm }]),
    { fromTick: 0, toTick: Infinity, endSeconds: endSeconds - start },
  );
  const points = ridden.flatMap(({ controller, points: line }) =>
    line.map((point) => ({ controller, ...point })),
  );
  const last = Math.max(...notes.map((note) => note.endTick));
  return {
    part: {
      notes: notes.map((note, i) => ({ ...note, id: `own ${i}` })),
      marks: [],
      points: points.map((point, i) => ({ ...point, id: `own point ${i}` })),
    },
    endTick: last + TICKS_PER_QUARTER,
  };
}
