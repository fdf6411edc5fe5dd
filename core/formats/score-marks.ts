import type { Mark } from '../music/index.ts';
import { PLAIN, SLURRED } from './score-words.ts';
import type { SongNote } from './song.ts';

/** Words, signs and slurs of a part, gathered while it is read, and the marks they make of its notes. */
export class ScoreMarks {
  private readonly slurEnds: { isStart: boolean; number: number; note: SongNote }[] = [];
  private readonly words: { tick: number; id: string }[] = [];
  /** Signs by the onset they stand on. */
  private readonly signs = new Map<number, string>();

  /** A technique in words: it holds until the next one. */
  word(tick: number, id: string): void {
    this.words.push({ tick, id });
  }

  /** A technique by a sign, of the notes that begin there. */
  sign(tick: number, id: string): void {
    this.signs.set(tick, id);
  }

  /** An end of a slur. @param number tells slurs apart that go on at the same time */
  slur(isStart: boolean, number: number, note: SongNote): void {
    this.slurEnds.push({ isStart, number, note });
  }

  /** Words, within them slurs, within them signs: of two over the same notes the inner one ends a tick before the outer. */
  all(notes: readonly SongNote[], endTick: number): Omit<Mark, 'id'>[] {
    const onsets = [...new Set(notes.map(({ startTick }) => startTick))].sort((a, b) => a - b);
    const all = this.wordMarks(endTick);
    for (const mark of [...this.slurMarks(onsets), ...this.signMarks(notes)]) {
      while (all.some((one) => one.startTick === mark.startTick && one.endTick === mark.endTick))
        mark.endTick--;
      all.push(mark);
    }
    return all;
  }

  /** What lies under slurs. They are told staff by staff: only in the order of time their ends find each other. */
  private slurMarks(onsets: readonly number[]): Omit<Mark, 'id'>[] {
    const inTime = [...this.slurEnds].sort(
      (a, b) => a.note.startTick - b.note.startTick || Number(a.isStart) - Number(b.isStart),
    );
    const words = [...this.words].sort((a, b) => a.tick - b.tick);
    const begun = new Map<number, number>();
    const marks: Omit<Mark, 'id'>[] = [];
    for (const { isStart, number, note } of inTime) {
      if (isStart) {
        begun.set(number, note.startTick);
        continue;
      }
      const startTick = begun.get(number);
      begun.delete(number);
      if (startTick === undefined || startTick >= note.startTick) continue;
      // A word for another way to connect holds under the slur.
      const said = words.filter(({ tick }) => tick <= startTick).at(-1)?.id;
      if (said !== undefined && SLURRED.has(said)) continue;
      // It ends with its last note, however long that rings into the next.
      const next = onsets.find((tick) => tick > note.startTick) ?? Infinity;
      marks.push({ articulation: 'connected', startTick, endTick: Math.min(note.endTick, next) });
    }
    return marks;
  }

  /** Words hold until the next one. */
  private wordMarks(endTick: number): Omit<Mark, 'id'>[] {
    const inTime = [...this.words].sort((a, b) => a.tick - b.tick);
    return inTime.flatMap(({ tick, id }, i) => {
      const end = inTime.at(i + 1)?.tick ?? endTick;
      return id === PLAIN || end <= tick ? [] : [{ articulation: id, startTick: tick, endTick: end }];
    });
  }

  /** Signs over one onset after the other are one mark. */
  private signMarks(notes: readonly SongNote[]): Omit<Mark, 'id'>[] {
    const ends = new Map<number, number>();
    for (const { startTick, endTick } of notes)
      ends.set(startTick, Math.max(ends.get(startTick) ?? 0, endTick));
    const onsets = [...ends.keys()].sort((a, b) => a - b);
    const marks: Omit<Mark, 'id'>[] = [];
    onsets.forEach((tick, i) => {
      const articulation = this.signs.get(tick);
      if (articulation === undefined) return;
      const endTick = Math.min(onsets.at(i + 1) ?? Infinity, ends.get(tick) ?? tick + 1);
      const last = marks.at(-1);
      const goesOn = i > 0 && this.signs.get(onsets[i - 1]) === articulation;
      if (last && goesOn) last.endTick = endTick;
      else marks.push({ articulation, startTick: tick, endTick });
    });
    return marks;
  }
}
