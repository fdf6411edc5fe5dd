import { useMemo } from 'react';
import { memoryBytes, samplesOf } from '#core/catalogue/index.ts';
import { mostAtOnce } from '#core/deliver/index.ts';
import { sortEvents } from '#core/engine/index.ts';
import { orderedTracks } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { useInstruments } from './instruments.ts';
import { passageTicks, playedIn } from './passage.ts';
import { usePerformance } from './performance-state.ts';

/** Most notes that sound at once in the passage: of one track, or of all. */
export function useNotesAtOnce(trackId?: string): number {
  const plans = usePerformance((state) => state.plans);
  // Not by all records: a ruler that is moved changes nothing of this.
  const tracks = useDocuments((state) =>
    orderedTracks(state.records)
      .map(({ id, muted }) => `${id} ${muted}`)
      .join('\n'),
  );
  const passageKey = useDocuments(() => passageTicks().join(' '));
  return useMemo(() => {
    const { records } = useDocuments.getState();
    const passage = passageTicks();
    return mostAtOnce(
      sortEvents(
        orderedTracks(records).flatMap(({ id, muted }, i) => {
          const plan = plans[id];
          const counts = trackId === undefined ? !muted : id === trackId;
          return plan && counts ? playedIn(plan, i, passage).events : [];
        }),
      ),
    );
    // oxlint-disable-next-line react-hooks/exhaustive-deps -- tracks and passage are read from the records
  }, [plans, tracks, passageKey, trackId]);
}

/** Bytes that a position of an instrument takes: of the articulations that are loaded of it. */
export function usePositionBytes(instrumentId: string | null, positionId: string): number | undefined {
  const load = useInstruments((state) => state.loads[instrumentId ?? '']);
  return useMemo(() => {
    if (!load) return undefined;
    const { instrument, wanted } = load;
    const played = instrument.articulations.filter(({ id }) => wanted.has(id));
    return memoryBytes(instrument, new Set(played.flatMap((one) => [...samplesOf(one, [positionId])])));
  }, [load, positionId]);
}
