import { listOf, useDocuments } from '../state/documents.ts';
import { cueOf, orderedTracks } from '../state/cue.ts';
import { useSession } from '../state/session.ts';
import { useInstruments } from './instruments.ts';
import { soundOf } from './mixes.ts';
import { missingOf } from './planned-sounds.ts';
import { usePerformance } from './performance-state.ts';

/** What playing would miss now: names of tracks whose plan or recordings are still to come, and of what else is, and why others stay silent. */
export interface Missing {
  waiting: string[];
  failed: string[];
}

/** Looks at the tracks of the open cue that something is written for. */
export function whatIsMissing(): Missing {
  const { records, cueId } = useDocuments.getState();
  const { loads, errors } = useInstruments.getState();
  const { plans, hallIsComing } = usePerformance.getState();
  const parts = new Set(listOf(records, 'note').map((note) => note.partId));
  const written = new Set(
    listOf(records, 'part').flatMap(({ id, trackId }) => (parts.has(id) ? trackId : [])),
  );
  const missing: Missing = { waiting: [], failed: [] };
  // The page has just been opened, and the cue is on its way.
  if (!cueOf(records, cueId) && useSession.getState().overview?.cues.length !== 0)
    missing.waiting.push('the cue');
  if (hallIsComing) missing.waiting.push('the hall');
  for (const track of orderedTracks(records)) {
    const { instrumentId, mix } = soundOf(records, track);
    if (!instrumentId || !written.has(track.id) || mix.muted) continue;
    if (errors[instrumentId]) missing.failed.push(`${track.name}: ${errors[instrumentId]}`);
    else if (!plans[track.id] || !loads[instrumentId]?.complete || missingOf(plans[track.id]).size > 0)
      missing.waiting.push(track.name);
  }
  return missing;
}

/** Calls back once nothing is waited for any more. @returns stops waiting */
export function whenReady(ready: () => void): () => void {
  const look = () => {
    if (whatIsMissing().waiting.length > 0) return;
    end();
    ready();
  };
  const ends = [useInstruments.subscribe(look), usePerformance.subscribe(look), useDocuments.subscribe(look)];
  const end = () => ends.forEach((one) => one());
  return end;
}
