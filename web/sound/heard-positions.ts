import { orderedTracks } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { followHeard } from './instruments.ts';
import { AS_WRITTEN, soundOf } from './mixes.ts';
import { usePerformance } from './performance-state.ts';

/** Positions that go off are let go of after a while: a ruler that passes its end is not yet at rest. */
const CLOSE_AFTER_MS = 3000;
const OFF_DB = -60;

let told = new Map<string, ReadonlySet<string>>();
let timer: ReturnType<typeof setTimeout> | undefined;

/** Positions that tracks hear, by instrument. What somebody mutes stays: it may be heard again in a moment. */
function heardByTracks(): Map<string, ReadonlySet<string>> {
  const { records } = useDocuments.getState();
  const heard = new Map<string, Set<string>>();
  for (const track of orderedTracks(records)) {
    const { instrumentId, mix } = soundOf(records, track, AS_WRITTEN);
    if (!instrumentId) continue;
    const own = heard.get(instrumentId) ?? new Set<string>();
    heard.set(instrumentId, own);
    for (const [id, { levelDb }] of Object.entries(mix.positions)) if (levelDb > OFF_DB) own.add(id);
  }
  // What is taken up on the shelf has a mix of its own.
  const { taken } = usePerformance.getState();
  if (taken) heard.delete(taken.instrumentId);
  return heard;
}

/** Loads what mixes let be heard, at once, and lets go of what they have let go of for a while. */
export function followMixes(): void {
  const now = heardByTracks();
  const both = new Map(
    [...now].map(([id, own]) => [id, new Set([...own, ...(told.get(id) ?? [])])] as const),
  );
  tell(both);
  clearTimeout(timer);
  if (!same(now, both)) timer = setTimeout(() => tell(heardByTracks()), CLOSE_AFTER_MS);
}

function tell(heard: Map<string, ReadonlySet<string>>): void {
  if (same(heard, told)) return;
  told = heard;
  followHeard(heard);
}

function same(a: ReadonlyMap<string, ReadonlySet<string>>, b: ReadonlyMap<string, ReadonlySet<string>>) {
  return (
    a.size === b.size &&
    [...a].every(([id, own]) => {
      const other = b.get(id);
      return other?.size === own.size && [...own].every((one) => other.has(one));
    })
  );
}
