import { POSITION_LEVEL, type EngineEvent } from '#core/engine/index.ts';
import { orderedTracks } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { moveAt } from '../state/level-moves.ts';
import { soundHost } from './host.ts';
import { useInstruments } from './instruments.ts';
import { soundOf } from './mixes.ts';
import { usePerformance } from './performance-state.ts';
import { playheadTick } from './playhead.ts';

/** Smaller changes are not heard. */
const LEAST_DB = 0.05;

/** What the audio thread was told last: by track of the engine, the level in dB of each of its positions. */
const told = new Map<number, number[]>();

/** The audio thread has begun anew and knows of no levels. */
export function forgetHandMoves(): void {
  told.clear();
}

/**
 * What hands play follows the levels that move in the cue, as what is planned does: where the playhead is, each time the engine
 * tells it.
 */
export function followHandMoves(): void {
  const { trackId, taken } = usePerformance.getState();
  const { records } = useDocuments.getState();
  const track = orderedTracks(records).findIndex(({ id }) => id === trackId);
  if (trackId === undefined || taken || track < 0) return;
  const { instrumentId } = soundOf(records, orderedTracks(records)[track]);
  const instrument = instrumentId ? useInstruments.getState().loads[instrumentId]?.instrument : undefined;
  if (!instrument) return;
  const tick = playheadTick();
  const levelsDb = instrument.positions.map(({ id }) => moveAt(records, { trackId, positionId: id }, tick));
  const before = told.get(track) ?? [];
  const events = levelsDb.flatMap((value, p): EngineEvent[] =>
    Math.abs(value - (before[p] ?? 0)) < LEAST_DB
      ? []
      : [{ kind: 'control', frame: 0, track, controller: POSITION_LEVEL + p, value }],
  );
  if (events.length === 0) return;
  soundHost.rideHands(events);
  told.set(track, levelsDb);
}
