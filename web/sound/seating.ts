import { create } from 'zustand';
import { panFor, withLateness, type SeatAims, type Seated } from '#core/balance/index.ts';
import {
  azimuthOf,
  balanceOfAzimuth,
  depthAt,
  lateMs,
  metresTo,
  type Seat,
  type TrackMix,
} from '#core/mixing/index.ts';
import { itemOf, useDocuments } from '../state/documents.ts';
import { seatTracks, wallsOf, type SeatMove } from '../state/seating.ts';
import { presentMixOf, seatFor } from './balance.ts';

interface SeatingState {
  /** What sits further back is heard later. */
  late: boolean;
  /** The hall may bring a section further away. */
  hall: boolean;
  /** How far tracks came to the seats they were last brought to, by track. */
  seated: Readonly<Record<string, Omit<Seated, 'mix'>>>;
  /** Tracks that are being brought to their seats. */
  working: number;
}

/** How sections are brought to their seats, and how far they came. */
export const useSeating = create<SeatingState>(() => ({ late: true, hall: true, seated: {}, working: 0 }));

/** What a seat asks of a section in the open template's hall. */
export function aimsOfSeat(seat: Seat): SeatAims {
  const { records, templateId } = useDocuments.getState();
  const template = itemOf(records, 'template', templateId);
  const listener = template?.listenerMetres ?? 0;
  return {
    depthDb: depthAt(metresTo(seat, listener), wallsOf(template)),
    balanceDb: balanceOfAzimuth(azimuthOf(seat, listener)),
    lateMs: useSeating.getState().late ? lateMs(seat, listener) : undefined,
  };
}

/**
 * Seats tracks and brings them there, as one step: depth, direction and arrival of what was measured; of what was not, direction as
 * if it had been recorded in the middle, and arrival.
 */
export async function bringTo(moves: readonly SeatMove[], label: string): Promise<void> {
  useSeating.setState(({ working }) => ({ working: working + moves.length }));
  try {
    await seatAll(moves, label);
  } finally {
    useSeating.setState(({ working }) => ({ working: working - moves.length }));
  }
}

async function seatAll(moves: readonly SeatMove[], label: string): Promise<void> {
  const { hall } = useSeating.getState();
  const found = await Promise.all(
    moves.map(async ({ trackId, seat }) => {
      const aims = aimsOfSeat(seat);
      const seated = await seatFor(trackId, aims, hall).catch(() => undefined);
      return { trackId, seat, seated, mix: seated?.mix ?? unmeasured(trackId, aims) };
    }),
  );
  seatTracks(
    found.map(({ trackId, seat, mix }) => ({ trackId, seat, ...(mix ? { mix } : {}) })),
    label,
  );
  useSeating.setState(({ seated }) => {
    const next: Record<string, Omit<Seated, 'mix'>> = { ...seated };
    for (const one of found) {
      delete next[one.trackId];
      if (one.seated) next[one.trackId] = { depth: one.seated.depth, balance: one.seated.balance };
    }
    return { seated: next };
  });
}

function unmeasured(trackId: string, { balanceDb, lateMs: late }: SeatAims): TrackMix | undefined {
  const mix = presentMixOf(trackId);
  if (!mix) return undefined;
  const panned = { ...mix, pan: panFor(balanceDb) };
  return late === undefined ? panned : withLateness(panned, late);
}
