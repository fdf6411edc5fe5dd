import { listOf, useDocuments, type Item } from '../state/documents.ts';
import type { Records } from '../state/tables.ts';
import { bytesFreedBy, unloadArticulation, useInstruments, type LoadState } from './instruments.ts';
import { usePerformance } from './performance-state.ts';
import { setupOfTrack } from './playing-by.ts';

/** An articulation in memory. */
interface Loaded {
  id: string;
  articulation: string;
}

/**
 * What is loaded and not used by the open cue: neither a track's own articulation nor a mark of its part is played by it.
 * @param soundingFor articulations of the track's instrument that sound for a word
 */
export function unusedArticulations(
  records: Records,
  loads: Readonly<Record<string, LoadState>>,
  soundingFor: (track: Item<'track'>, articulation: string) => readonly string[] = (_, articulation) => [
    articulation,
  ],
): Loaded[] {
  const used = new Set<string>();
  const parts = new Map(listOf(records, 'part').map((part) => [part.id, part.trackId]));
  const tracks = new Map(listOf(records, 'track').map((track) => [track.id, track]));
  const use = (track: Item<'track'> | undefined, articulation: string) => {
    if (track)
      for (const own of soundingFor(track, articulation)) used.add(`${track.instrumentId ?? ''} ${own}`);
  };
  for (const track of tracks.values()) use(track, track.articulation);
  for (const mark of listOf(records, 'mark'))
    use(tracks.get(parts.get(mark.partId) ?? ''), mark.articulation);
  return Object.entries(loads).flatMap(([id, load]) =>
    [...load.wanted].flatMap((articulation) =>
      used.has(`${id} ${articulation}`) ? [] : [{ id, articulation }],
    ),
  );
}

function unusedNow(): Loaded[] {
  const { trial } = usePerformance.getState();
  const { records } = useDocuments.getState();
  const { loads } = useInstruments.getState();
  const soundingFor = (track: Item<'track'>, articulation: string) => {
    const instrument = loads[track.instrumentId ?? '']?.instrument;
    if (!instrument) return [articulation];
    const { voicing } = setupOfTrack(records, track, instrument, false);
    return voicing.indicesOf(articulation).map((index) => instrument.articulations[index].id);
  };
  return unusedArticulations(records, loads, soundingFor).filter(({ id }) => id !== trial?.instrumentId);
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
