import { describe, expect, it } from 'vitest';
import type { Delta } from './diff.ts';
import { UndoStacks, type Step } from './undo.ts';

const delta = (from: number, to: number): Delta => ({
  kind: 'note',
  id: 'n',
  before: { id: 'n', key: from },
  after: { id: 'n', key: to },
});
const step = (label: string, at = 0, merge?: string, deltas = [delta(0, 1)]): Step => ({
  label,
  deltas,
  at,
  merge,
});

describe('steps', () => {
  it('go back in the reverse of their order, and forward again', () => {
    const stacks = new UndoStacks();
    const seen: string[] = [];
    const run = ({ label }: Step) => (seen.push(label), true);
    stacks.add(step('one'));
    stacks.add(step('two'));
    stacks.move('undo', run);
    stacks.move('undo', run);
    stacks.move('undo', run);
    stacks.move('redo', run);
    expect(seen).toEqual(['two', 'one', 'one']);
    expect([stacks.undoLabel, stacks.redoLabel]).toEqual(['one', 'two']);
  });
  it('forget what was taken back once something new is done', () => {
    const stacks = new UndoStacks();
    stacks.add(step('one'));
    stacks.move('undo', () => true);
    stacks.add(step('new'));
    expect(stacks.redoLabel).toBeUndefined();
  });
  it('of which nothing came are not kept on the other side', () => {
    const stacks = new UndoStacks();
    stacks.add(step('one'));
    stacks.move('undo', () => false);
    expect([stacks.undoLabel, stacks.redoLabel]).toEqual([undefined, undefined]);
  });
  it('of the same name within half a second become one, from the first state to the last', () => {
    const stacks = new UndoStacks();
    stacks.add(step('a', 1000, 'turn', [delta(0, 1)]));
    stacks.add(step('a', 1499, 'turn', [delta(1, 2)]));
    let moved: Step | undefined;
    stacks.move('undo', (one) => ((moved = one), true));
    expect(moved?.deltas).toEqual([delta(0, 2)]);
    expect(stacks.undoLabel).toBeUndefined();
  });
  it('stay apart when they are later, of another name, or of none', () => {
    for (const [second, merge] of [
      [1500, 'turn'],
      [1100, 'other'],
      [1100, undefined],
    ] as const) {
      const stacks = new UndoStacks();
      stacks.add(step('a', 1000, merge === undefined ? undefined : 'turn'));
      stacks.add(step('b', second, merge));
      stacks.move('undo', () => true);
      expect(stacks.undoLabel).toBe('a');
    }
  });
  it('are kept up to three hundred', () => {
    const stacks = new UndoStacks();
    for (let i = 1; i <= 301; i++) stacks.add(step(String(i)));
    let last = '';
    for (let i = 0; i < 400; i++) stacks.move('undo', ({ label }) => ((last = label), true));
    expect(last).toBe('2');
  });
  it('that speak of what was closed are forgotten', () => {
    const stacks = new UndoStacks();
    stacks.add(step('note'));
    stacks.add({ ...step('track'), deltas: [{ kind: 'track', id: 't', before: null, after: null }] });
    stacks.move('undo', () => true);
    stacks.forget(({ kind }) => kind === 'track');
    expect([stacks.undoLabel, stacks.redoLabel]).toEqual(['note', undefined]);
  });
});
