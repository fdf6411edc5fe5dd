import { useMemo } from 'react';
import { planSummary } from '#core/performance/index.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { metreOf } from '../../state/cue.ts';
import { useDocuments, type Item } from '../../state/documents.ts';
import { GroupTitle, Notice } from '../../ui/heading.tsx';
import { useCalm } from '../../ui/use-calm.ts';
import { useEditor } from './editor/editor-state.ts';

/** What the plan does with this part: the leads it uses, and what will not sound as written. */
export function PlannedPane({ track }: { track: Item<'track'> }) {
  const plan = useCalm(usePerformance((state) => state.plans[track.id]));
  const metre = useDocuments((state) => metreOf(state.records));
  const planned = useMemo(() => plan && planSummary(plan), [plan]);
  if (!planned || plan.notes.length === 0) return null;
  const { leads, findings } = planned;
  const milliseconds = (range: { low: number; high: number }) => {
    const [low, high] = [range.low, range.high].map((seconds) => Math.round(seconds * 1000));
    return low === high ? `${low} ms` : `${low} to ${high} ms`;
  };
  const barOf = (noteId: string) =>
    metre.toBarBeat(plan.notes.find((note) => note.id === noteId)?.startTick ?? 0).bar;
  const placeOf = (noteIds: readonly string[]) =>
    noteIds.length === 1
      ? `Bar ${barOf(noteIds[0])}`
      : `From bar ${barOf(noteIds[0])} on, ${noteIds.length} notes`;
  return (
    <>
      <GroupTitle>Planned leads</GroupTitle>
      <table className="w-full">
        <tbody>
          {[...leads].map(([name, range]) => (
            <tr key={name} className="border-b border-rule-soft">
              <th className="py-1 text-left font-normal">{name}</th>
              <td className="text-right">{milliseconds(range)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      {findings.length > 0 && (
        <>
          <GroupTitle>Findings</GroupTitle>
          {findings.map(({ sentence, noteIds }) => (
            <Notice key={sentence} tone="straw">
              <button
                type="button"
                className="text-left"
                onClick={() => useEditor.setState({ selection: new Set(noteIds) })}
              >
                {placeOf(noteIds)}: {sentence}
              </button>
            </Notice>
          ))}
        </>
      )}
    </>
  );
}
