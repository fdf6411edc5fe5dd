import type { Note } from './part.ts';

/** What becomes of some notes: times that change, notes that go, notes that come. */
export interface NoteChange {
  update: Pick<Note, 'id' | 'startTick' | 'endTick'>[];
  remove: string[];
  add: Omit<Note, 'id'>[];
}

/** How notes are drawn to a grid. */
export interface Quantising {
  /** Ticks from line to line, at least 1. */
  gridTicks: number;
  /** From 0, nothing, to 1, all the way. */
  strength: number;
  /** Where every second line stands between its neighbours: 0.5 in the middle, 2/3 as in triplets, 0.75 at most. */
  swing: number;
  /** Draws their ends as well; else notes keep their lengths. */
  ends: boolean;
}

/** Draws notes to the lines of a grid. At full strength a second time changes nothing. */
export function quantised(
  notes: readonly Note[],
  { gridTicks, strength, swing, ends }: Quantising,
): NoteChange {
  const pair = 2 * gridTicks;
  const linesAround = (tick: number) => {
    const first = Math.floor(tick / pair) * pair;
    return [first, Math.round(first + pair * swing), first + pair];
  };
  const nearest = (tick: number) =>
    linesAround(tick).reduce((best, line) => (Math.abs(line - tick) < Math.abs(best - tick) ? line : best));
  const after = (tick: number) => linesAround(tick).find((line) => line > tick) ?? tick + gridTicks;
  const drawn = (tick: number, line: number) => Math.round(tick + strength * (line - tick));
  return timesOf(notes, ({ startTick, endTick }) => {
    const line = nearest(startTick);
    const start = drawn(startTick, line);
    if (!ends) return { startTick: start, endTick: start + endTick - startTick };
    const end = nearest(endTick);
    return { startTick: start, endTick: Math.max(start + 1, drawn(endTick, end > line ? end : after(line))) };
  });
}

/** Lets every note last until the next one begins; those that begin together end together, and the last keep their ends. */
export function touching(notes: readonly Note[]): NoteChange {
  const starts = [...new Set(notes.map(({ startTick }) => startTick))].sort((a, b) => a - b);
  const next = new Map(starts.map((start, i) => [start, starts[i + 1]]));
  return timesOf(notes, ({ startTick, endTick }) => ({ startTick, endTick: next.get(startTick) ?? endTick }));
}

/** Cuts notes where the same key is struck again; of two struck together the longer one stays. */
export function withoutOverlaps(notes: readonly Note[]): NoteChange {
  const change: NoteChange = { update: [], remove: [], add: [] };
  for (const own of byKey(notes)) {
    // Of those that begin together the longest comes first.
    const isDouble = ({ startTick }: Note, i: number) => i > 0 && own[i - 1].startTick === startTick;
    const kept = own.filter((one, i) => !isDouble(one, i));
    change.remove.push(...own.filter(isDouble).map(({ id }) => id));
    kept.forEach(({ id, startTick, endTick }, i) => {
      const next = i + 1 < kept.length ? kept[i + 1].startTick : endTick;
      if (next < endTick) change.update.push({ id, startTick, endTick: next });
    });
  }
  return change;
}

/** Cuts notes that sound at a tick into two. */
export function split(notes: readonly Note[], tick: number): NoteChange {
  const cut = notes.filter(({ startTick, endTick }) => startTick < tick && endTick > tick);
  return {
    update: cut.map(({ id, startTick }) => ({ id, startTick, endTick: tick })),
    remove: [],
    add: cut.map(({ key, velocity, endTick }) => ({ key, velocity, startTick: tick, endTick })),
  };
}

/** Makes one note of all of a key, from where the first begins to where the last ends, as hard as the first. */
export function joined(notes: readonly Note[]): NoteChange {
  const several = byKey(notes).filter(({ length }) => length > 1);
  return {
    update: several.map((own) => ({
      id: own[0].id,
      startTick: own[0].startTick,
      endTick: Math.max(...own.map(({ endTick }) => endTick)),
    })),
    remove: several.flatMap((own) => own.slice(1).map(({ id }) => id)),
    add: [],
  };
}

/** Notes key by key, by their starts, the longest first of those that begin together. */
function byKey(notes: readonly Note[]): Note[][] {
  const keys = new Map<number, Note[]>();
  for (const note of notes) {
    const own = keys.get(note.key);
    if (own) own.push(note);
    else keys.set(note.key, [note]);
  }
  return [...keys.values()].map((own) =>
    own.sort((a, b) => a.startTick - b.startTick || b.endTick - a.endTick),
  );
}

/** New times of notes, of those alone that change. */
function timesOf(
  notes: readonly Note[],
  times: (note: Note) => Pick<Note, 'startTick' | 'endTick'>,
): NoteChange {
  const update = notes.flatMap((note) => {
    const { startTick, endTick } = times(note);
    return startTick === note.startTick && endTick === note.endTick
      ? []
      : [{ id: note.id, startTick, endTick }];
  });
  return { update, remove: [], add: [] };
}
