import type { Mark } from './part.ts';

/**
 * Marks with a span cleared of them: those that reach into it are cut back, or go on behind it as another one.
 * @param newId gives an id for what goes on behind
 */
export function clearedOfMarks(
  marks: readonly Mark[],
  startTick: number,
  endTick: number,
  newId: () => string,
): Mark[] {
  return marks.flatMap((mark) => {
    if (mark.endTick <= startTick || mark.startTick >= endTick) return [mark];
    const before = mark.startTick < startTick ? [{ ...mark, endTick: startTick }] : [];
    if (mark.endTick <= endTick) return before;
    const id = before.length > 0 ? newId() : mark.id;
    return [...before, { ...mark, id, startTick: endTick }];
  });
}
