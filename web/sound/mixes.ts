import { isAudible, trialMix, type OwnHearing, type TrackMix } from '#core/mixing/index.ts';
import { itemOf, ownedBy, type Item } from '../state/documents.ts';
import { useOwnHearing } from '../state/own-hearing.ts';
import type { Records } from '../state/tables.ts';
import { useInstruments } from './instruments.ts';
import { usePerformance } from './performance-state.ts';

/** Nothing muted or heard alone by anybody: what the template says. */
export const AS_WRITTEN: OwnHearing = { muted: new Set(), soloed: new Set() };

const kept = new Map<string, { parts: readonly unknown[]; mix: TrackMix }>();

/**
 * Mix of a track, without regard to what is tried in its place; the same object as long as nothing of it changes.
 * @param own what the listener mutes and hears alone
 */
export function mixOf(
  records: Records,
  track: Item<'track'>,
  own: OwnHearing = useOwnHearing.getState(),
): TrackMix {
  const anySoloed = [...own.soloed].some((id) => itemOf(records, 'track', id) !== undefined);
  const muted = !isAudible(track, own, anySoloed);
  const positions = ownedBy(records, 'positionMix', track.id);
  const bands = bandsOf(records, track.id);
  const all = ownedBy(records, 'eqBand', track.id);
  const trimDb = own.trimDb ?? 0;
  // What is written and what is heard are asked for by turns.
  const alone = own.positions?.size ? own.positions : undefined;
  const name = `${track.id} ${muted}${trimDb !== 0 || alone ? ' heard' : ''}`;
  return keptMix(name, [track, positions, all, trimDb, alone], () => ({
    gainDb: track.gainDb + trimDb,
    pan: track.pan,
    muted,
    hallSendDb: track.hallSendDb,
    positions: Object.fromEntries(
      positions.map((one) => {
        const eq = bandsOf(records, track.id, one.positionId).filter((band) => band.active);
        const heard = alone && !alone.has(one.positionId) ? { ...one, muted: true } : one;
        return [one.positionId, eq.length > 0 ? { ...heard, eq } : heard];
      }),
    ),
    eq: bands.filter((band) => band.active),
  }));
}

const sortedBands = new WeakMap<object, Map<string, readonly Item<'eqBand'>[]>>();

/** Bands of the tone of a track, or of one of its positions, low to high. */
export function bandsOf(records: Records, trackId: string, positionId = ''): readonly Item<'eqBand'>[] {
  const list = ownedBy(records, 'eqBand', trackId);
  let byPosition = sortedBands.get(list);
  if (!byPosition) sortedBands.set(list, (byPosition = new Map()));
  let sorted = byPosition.get(positionId);
  if (!sorted) {
    sorted = list
      .filter((band) => band.positionId === positionId)
      .sort((a, b) => a.hertz - b.hertz || (a.id < b.id ? -1 : 1));
    byPosition.set(positionId, sorted);
  }
  return sorted;
}

function keptMix(name: string, parts: readonly unknown[], make: () => TrackMix): TrackMix {
  const known = kept.get(name);
  if (known?.parts.length === parts.length && known.parts.every((part, i) => part === parts[i]))
    return known.mix;
  const mix = make();
  kept.set(name, { parts, mix });
  return mix;
}

/** What sounds on a track: its own instrument and mix, or those that are tried in its place. */
export function soundOf(
  records: Records,
  track: Item<'track'>,
  own?: OwnHearing,
): { instrumentId: string | null; articulation: string; mix: TrackMix; tried: boolean } {
  const mix = mixOf(records, track, own);
  const { trial } = usePerformance.getState();
  if (trial?.trackId !== track.id)
    return { instrumentId: track.instrumentId, articulation: track.articulation, mix, tried: false };
  const positions = useInstruments.getState().loads[trial.instrumentId]?.instrument.positions;
  const tried = keptMix(`trial ${track.id}`, [mix, trial, positions], () => trialMix(mix, trial, positions));
  return { instrumentId: trial.instrumentId, articulation: trial.articulation, mix: tried, tried: true };
}
