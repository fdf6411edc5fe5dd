import { naturalId } from '#api/index.ts';
import {
  conventionalSeat,
  onStage,
  readSeating,
  writeSeating,
  type Seat,
  type Seating,
} from '#core/mixing/index.ts';
import type { TrackMix } from '#core/mixing/index.ts';
import { HARBOUR_HALL, hallAsSet, SHARED_HALLS, type HallModel, type SharedHall } from '#core/rooms/index.ts';
import { mixEdits } from './balance.ts';
import { orderedTracks } from './cue.ts';
import type { Edit } from './diff.ts';
import { edit, itemOf, listOf, ownedBy, useDocuments, type Item } from './documents.ts';
import type { Records } from './tables.ts';

/** Seats so near to each other are one: longs and shorts of the same players. */
const SAME_METRES = 0.15;

/** A place of the plan with all tracks that sit there. */
export interface Place extends Seat {
  tracks: readonly Item<'track'>[];
}

/** Where a track sits; undefined while it has no seat. */
export const seatOf = (records: Records, trackId: string): Item<'seat'> | undefined =>
  ownedBy(records, 'seat', trackId)[0];

/** Places that are taken, in the order of their first tracks. */
export function placesOf(records: Records): Place[] {
  const places: { x: number; y: number; tracks: Item<'track'>[] }[] = [];
  for (const track of orderedTracks(records)) {
    const seat = seatOf(records, track.id);
    if (!seat) continue;
    const known = places.find(({ x, y }) => Math.hypot(x - seat.x, y - seat.y) < SAME_METRES);
    if (known) known.tracks.push(track);
    else places.push({ x: seat.x, y: seat.y, tracks: [track] });
  }
  return places;
}

/** The hall of a template with its walls; for a hall of one's own, whose walls nobody knows, those of the first. */
export function wallsOf(template: Item<'template'> | undefined): HallModel {
  if (!template) return HARBOUR_HALL;
  const { hall, hallSize: size, hallDecaySeconds: decaySeconds } = template;
  return hallAsSet(SHARED_HALLS[hall in SHARED_HALLS ? (hall as SharedHall) : 'harbour'], {
    size,
    decaySeconds,
  });
}

function seatEdit(records: Records, templateId: string, trackId: string, seat: Seat): Edit {
  const known = seatOf(records, trackId);
  const { x, y } = onStage(seat);
  return known
    ? { kind: 'seat', id: known.id, op: 'update', fields: { x, y } }
    : { kind: 'seat', id: naturalId('seat', templateId, trackId), op: 'add', fields: { trackId, x, y } };
}

/** A track, its seat, and the mix that brings it there where one was found. */
export interface SeatMove {
  trackId: string;
  seat: Seat;
  mix?: TrackMix;
}

/** Seats tracks, with the mixes that bring them there, as one step. */
export function seatTracks(moves: readonly SeatMove[], label: string): void {
  const { records, templateId = '' } = useDocuments.getState();
  edit(
    label,
    moves.flatMap(({ trackId, seat, mix }) => [
      seatEdit(records, templateId, trackId, seat),
      ...(mix ? mixEdits(records, trackId, mix) : []),
    ]),
  );
}

/** Where all tracks sit by a convention. */
export function conventionalMoves(records: Records, seating: Seating): SeatMove[] {
  return orderedTracks(records).map((track) => ({
    trackId: track.id,
    seat: conventionalSeat(seating, track),
  }));
}

/** Where tracks sit by a kept seating; those it does not name stay. */
export function keptMoves(records: Records, text: string): SeatMove[] {
  const seats = new Map(readSeating(text).map((one) => [one.name, one]));
  return orderedTracks(records).flatMap((track): SeatMove[] => {
    const seat = seats.get(track.name);
    return seat ? [{ trackId: track.id, seat: { x: seat.x, y: seat.y } }] : [];
  });
}

/** Keeps the present seating under a name, for all templates of the studio. */
export function keepSeating(name: string): void {
  const { records } = useDocuments.getState();
  const seats = writeSeating(
    orderedTracks(records).flatMap((track) => {
      const seat = seatOf(records, track.id);
      return seat ? [{ name: track.name, x: seat.x, y: seat.y }] : [];
    }),
  );
  const known = listOf(records, 'keptSeating').find((one) => one.name === name);
  edit(`Keep the seating “${name}”`, [
    known
      ? { kind: 'keptSeating', id: known.id, op: 'update', fields: { seats } }
      : { kind: 'keptSeating', id: crypto.randomUUID(), op: 'add', fields: { name, seats } },
  ]);
}

/** Takes seats from tracks. */
export function unseat(trackIds: readonly string[]): void {
  const { records } = useDocuments.getState();
  edit(
    'Take the seat away',
    trackIds.flatMap((id): Edit[] => {
      const seat = seatOf(records, id);
      return seat ? [{ kind: 'seat', id: seat.id, op: 'remove' }] : [];
    }),
  );
}

/** Moves who listens nearer to the conductor or further away. */
export function standAt(metres: number): void {
  const { records, templateId = '' } = useDocuments.getState();
  if (!itemOf(records, 'template', templateId)) return;
  edit(
    'Place of who listens',
    [
      {
        kind: 'template',
        id: templateId,
        op: 'update',
        fields: { listenerMetres: Math.round(metres * 10) / 10 },
      },
    ],
    'listener',
  );
}
