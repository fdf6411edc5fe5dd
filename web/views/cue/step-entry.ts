import { create } from 'zustand';
import { witnessHands } from '../../sound/hands.ts';
import { usePerformance } from '../../sound/performance-state.ts';
import { edit, itemOf, useDocuments } from '../../state/documents.ts';
import { playedEdits } from '../../state/part-edits.ts';
import { snap, useEditor } from './editor/editor-state.ts';

/** Whether keys write notes one after the other at the playhead, a grid step long each. */
export const useStepEntry = create<{ on: boolean }>(() => ({ on: false }));

/** Keys that have written and are held. */
const held = new Set<number>();

/** Goes on by a grid step without writing: a rest. */
export function stepOn(): void {
  const { gridTicks } = useEditor.getState();
  usePerformance.setState(({ restTick }) => ({ restTick: snap(restTick) + gridTicks }));
}

let end: (() => void) | undefined;

/** Switches it. While it is on, keys that are held together become a chord. */
export function switchStepEntry(on: boolean): void {
  end?.();
  end = undefined;
  held.clear();
  useStepEntry.setState({ on });
  if (!on) return;
  end = witnessHands(({ trackId, bytes: [status, key, velocity], selects, articulation }) => {
    const kind = status & 0xf0;
    if (selects || usePerformance.getState().playing) return;
    if (kind === 0x90 && velocity > 0) {
      writeStep(trackId, { key, velocity }, articulation);
      held.add(key);
    } else if ((kind === 0x80 || kind === 0x90) && held.delete(key) && held.size === 0) stepOn();
  });
}

/** Writes a key at the playhead, with the articulation it sounds with. */
function writeStep(trackId: string, note: { key: number; velocity: number }, articulation: string): void {
  const track = itemOf(useDocuments.getState().records, 'track', trackId);
  if (!track) return;
  const startTick = snap(usePerformance.getState().restTick);
  const span = { startTick, endTick: startTick + useEditor.getState().gridTicks };
  edit(
    'Step entry',
    playedEdits(
      { notes: [{ ...span, ...note }], stretches: [{ ...span, articulation }], ridden: [] },
      { trackId, unmarked: track.articulation },
    ),
  );
}
