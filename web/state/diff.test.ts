import fc from 'fast-check';
import { describe, expect, it } from 'vitest';
import { applyDeltas, deltasOf, inverse, squash, type Edit, type Records } from './diff.ts';

const edits = fc.array(
  fc.oneof(
    fc.record({
      kind: fc.constant('note' as const),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('add' as const),
      fields: fc.record({ key: fc.nat(9), velocity: fc.nat(9) }),
    }),
    fc.record({
      kind: fc.constant('note' as const),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('update' as const),
      fields: fc.record({ key: fc.nat(9) }),
    }),
    fc.record({
      kind: fc.constant('note' as const),
      id: fc.constantFrom('a', 'b', 'c'),
      op: fc.constant('remove' as const),
    }),
  ),
  { maxLength: 20 },
);

describe('deltas', () => {
  const start: Records = { note: { a: { id: 'a', key: 1, velocity: 2 } } };
  it('undo to the start and redo to the end, whatever was edited', () => {
    fc.assert(
      fc.property(edits, (list) => {
        const steps: { records: Records; deltas: ReturnType<typeof deltasOf> }[] = [];
        let records = start;
        for (const edit of list as Edit[]) {
          const deltas = deltasOf(records, [edit]);
          records = applyDeltas(records, deltas);
          steps.push({ records, deltas });
        }
        const end = records;
        for (const step of [...steps].reverse()) records = applyDeltas(records, inverse(step.deltas));
        expect(records.note).toEqual(start.note);
        expect(applyDeltas(start, squash(steps.flatMap((step) => step.deltas))).note).toEqual(end.note);
      }),
    );
  });
  it('leave edits out that change nothing or concern nothing', () => {
    expect(
      deltasOf(start, [
        { kind: 'note', id: 'a', op: 'update', fields: { key: 1 } },
        { kind: 'note', id: 'zz', op: 'remove' },
      ]),
    ).toEqual([]);
  });
  it('do not touch what they were made from', () => {
    const frozen = JSON.stringify(start);
    applyDeltas(start, deltasOf(start, [{ kind: 'note', id: 'a', op: 'update', fields: { key: 5 } }]));
    expect(JSON.stringify(start)).toBe(frozen);
  });
});
