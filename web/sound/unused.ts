import { listOf, useDocuments } from '../state/documents.ts';
import type { Records } from '../state/tables.ts';
import { bytesFreedBy, unloadArticulation, useInstruments, type LoadState } from './instruments.ts';
import { usePerformance } from './performance-state.ts';

/** An articulation in memory. */
interface Loaded {
  id: string;
  articulation: string;
}

/** What is loaded and not used by the open cue: neither a track's own articulation nor a mark of its part speaks of it. */
export function unusedArticulations(records: Records, loads: Readonly<Record<string, LoadState>>): Loaded[] {
  const used = new Set<string>();
  const parts = new Map(listOf(records, 'part').map((part) => [part.id, part.trackId]));
  const instrumentOf = new Map(listOf(records, 'track').map((track) => [track.id, track.instrumentId ?? '']));
  for (const track of listOf(records, 'track')) used.add(`${track.instrumentId ?? ''} ${track.articulation}`);
  for (const mark of listOf(records, 'mark'))
    used.add(`${instrumentOf.get(parts.get(mark.partId) ?? '') ?? ''} ${mark.articulation}`);
  return Object.entries(loads).flatMap(([id, load]) =>
    [...load.wanted].flatMap((articulation) =>
      used.has(`${id} ${articulation}`) ? [] : [{ id, articulation }],
    ),
  );
}

function unusedNow(): Loaded[] {
  const { trial } = usePerformance.getState();
  return unusedArticulations(useDocuments.getState().records, useInstruments.getState().loads).filter(
    ({ id }) => id !== trial?.instrumentId,
  );
}

/** Bytes that unloading the unused would free now. */
export function unusedBytes(): number {
  return bytesFreedBy(unusedNow());
}

/** Lets go of everything that the open cue does not use. @returns bytes held before and after */
export async function unloadUnused(): Promise<{ before: number; after: number }> {
  const before = useInstruments.getState().heldBytes;
  for (const { id, articulation } of unusedNow()) await unloadArticulation(id, articulation);
  return { before, after: useInstruments.getState().heldBytes };
}
