import { squash, type Delta } from './diff.ts';

/** One thing the user did. */
export interface Step {
  label: string;
  deltas: Delta[];
  at: number;
  merge: string | undefined;
}

const MERGE_MS = 500;
const MOST_STEPS = 300;

/** Steps that can be taken back and made again. Steps are never changed, only replaced. */
export class UndoStacks {
  private undoable: readonly Step[] = [];
  private redoable: readonly Step[] = [];

  get undoLabel(): string | undefined {
    return this.undoable.at(-1)?.label;
  }

  get redoLabel(): string | undefined {
    return this.redoable.at(-1)?.label;
  }

  /** A new step; one of the same `merge` name within half a second becomes part of the step before. */
  add(step: Step): void {
    const last = this.undoable.at(-1);
    const merges = step.merge !== undefined && last?.merge === step.merge && step.at - last.at < MERGE_MS;
    this.undoable =
      merges && last
        ? [...this.undoable.slice(0, -1), { ...step, deltas: squash([...last.deltas, ...step.deltas]) }]
        : [...this.undoable.slice(-MOST_STEPS + 1), step];
    this.redoable = [];
  }

  /** Takes the last step off one stack and, when `run` says that something came of it, puts it on the other. */
  move(direction: 'undo' | 'redo', run: (step: Step) => boolean): void {
    const back = direction === 'undo';
    const step = (back ? this.undoable : this.redoable).at(-1);
    if (!step) return;
    if (back) this.undoable = this.undoable.slice(0, -1);
    else this.redoable = this.redoable.slice(0, -1);
    if (!run(step)) return;
    if (back) this.redoable = [...this.redoable, step];
    else this.undoable = [...this.undoable, step];
  }

  /** Forgets steps that speak of something that is no longer open. */
  forget(about: (delta: Delta) => boolean): void {
    const keep = (step: Step) => !step.deltas.some(about);
    this.undoable = this.undoable.filter(keep);
    this.redoable = this.redoable.filter(keep);
  }
}
