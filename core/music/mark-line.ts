import type { ArticulationId } from './articulation-id.ts';
import type { Mark } from './part.ts';

/** The marks of a part, to be asked what holds at a tick. */
export class MarkLine {
  private readonly marks: readonly Mark[];
  /** Latest end of all marks up to each: where it is passed, nothing before holds any more. */
  private readonly reach: readonly number[];

  constructor(marks: readonly Mark[]) {
    // Of those that begin together the shorter lies within the longer.
    this.marks = [...marks].sort((a, b) => a.startTick - b.startTick || b.endTick - a.endTick);
    let latest = -1;
    this.reach = this.marks.map(({ endTick }) => (latest = Math.max(latest, endTick)));
  }

  /** Articulation at a tick: of nested and overlapping marks, that of the one that began last and still holds. */
  at(tick: number): ArticulationId | undefined {
    return this.markAt(tick)?.articulation;
  }

  /** The mark that holds at a tick. */
  markAt(tick: number): Mark | undefined {
    for (let i = this.lastAtOrBefore(tick); i >= 0 && this.reach[i] > tick; i--)
      if (tick < this.marks[i].endTick) return this.marks[i];
    return undefined;
  }

  private lastAtOrBefore(tick: number): number {
    let low = -1;
    let high = this.marks.length - 1;
    while (low < high) {
      const middle = (low + high + 1) >> 1;
      if (this.marks[middle].startTick <= tick) low = middle;
      else high = middle - 1;
    }
    return low;
  }
}
