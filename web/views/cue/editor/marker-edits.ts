import { askName } from '../../../ui/ask.tsx';
import { edit, type Item } from '../../../state/documents.ts';
import { usePerformance } from '../../../sound/performance-state.ts';

const ABOUT = 'It stands over all tracks of the cue, and is a place to go to.';

/** Asks for a name and puts a marker at the playhead. */
export async function addMarker(): Promise<void> {
  const tick = Math.round(usePerformance.getState().restTick);
  const text = await askName('Marker at the playhead', ABOUT, 'Set it');
  if (text)
    edit('Set a marker', [{ kind: 'marker', id: crypto.randomUUID(), op: 'add', fields: { tick, text } }]);
}

export async function renameMarker({ id, text }: Item<'marker'>): Promise<void> {
  const next = await askName('Rename the marker', ABOUT, 'Rename', text);
  if (next && next !== text)
    edit('Rename the marker', [{ kind: 'marker', id, op: 'update', fields: { text: next } }]);
}

/** Moves a marker to a tick. Moves of the same one by keys become one step. */
export function moveMarker({ id }: Item<'marker'>, tick: number): void {
  edit('Move the marker', [{ kind: 'marker', id, op: 'update', fields: { tick: Math.max(0, tick) } }], id);
}

export function removeMarker({ id }: Item<'marker'>): void {
  edit('Remove the marker', [{ kind: 'marker', id, op: 'remove' }]);
}
