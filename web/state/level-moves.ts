import { curveOf, curveValue, thinCurve, type CurvePoint } from '#core/music/index.ts';
import { cellOf, linkedWith, type Cell } from './balance.ts';
import { edit, ownedBy, useDocuments } from './documents.ts';
import type { Edit } from './diff.ts';
import type { Records } from './tables.ts';

/** Where a level may move, dB against the mix. */
export const MOVE_RANGE = [-24, 12] as const;
/** What is recorded is thinned to what stays within this of the hand. */
const TOLERANCE_DB = 0.4;

const curves = new WeakMap<readonly object[], Map<string, CurvePoint[]>>();

/** The level of a cell over the open cue, dB against the mix, in time order; the same list as long as nothing of it changes. */
export function movesOf(records: Records, { trackId, positionId }: Cell): readonly CurvePoint[] {
  const list = ownedBy(records, 'levelPoint', trackId);
  let byPosition = curves.get(list);
  if (!byPosition) curves.set(list, (byPosition = new Map()));
  let curve = byPosition.get(positionId);
  if (!curve) {
    const own = list.filter((one) => one.positionId === positionId);
    curve = curveOf(
      own.map(({ id, tick, levelDb }) => ({ id, controller: 0, tick, value: levelDb })),
      0,
    );
    byPosition.set(positionId, curve);
  }
  return curve;
}

/** Level of a cell at a place of the open cue, dB against the mix: none before its first point. */
export function moveAt(records: Records, cell: Cell, tick: number): number {
  const curve = movesOf(records, cell);
  return curveValue(curve, tick, 0);
}

const held = (db: number) => Math.round(Math.min(MOVE_RANGE[1], Math.max(MOVE_RANGE[0], db)) * 10) / 10 + 0;

function added({ trackId, positionId }: Cell, { tick, value }: { tick: number; value: number }): Edit {
  const fields = { trackId, positionId, tick: Math.max(0, Math.round(tick)), levelDb: held(value) };
  return { kind: 'levelPoint', id: crypto.randomUUID(), op: 'add', fields };
}

const removed = (point: CurvePoint): Edit => ({ kind: 'levelPoint', id: point.id, op: 'remove' });

/** Edits that put points in the place of those within their span. */
function replaced(cell: Cell, line: readonly { tick: number; value: number }[]): Edit[] {
  if (line.length === 0) return [];
  const [from, to] = [line[0].tick, line[line.length - 1].tick];
  const old = movesOf(useDocuments.getState().records, cell).filter(({ tick }) => tick >= from && tick <= to);
  return [...old.map(removed), ...line.map((point) => added(cell, point))];
}

/** Puts drawn points in the place of those within their span. */
export function replaceMoves(cell: Cell, line: readonly { tick: number; value: number }[]): void {
  if (line.length > 0) edit('Draw a level', replaced(cell, line));
}

/** Sets the level at a place, moving a point that is there already. */
export function setMove(cell: Cell, tick: number, db: number): void {
  const there = movesOf(useDocuments.getState().records, cell).find((point) => point.tick === tick);
  edit(
    'Level at a place',
    [
      there
        ? { kind: 'levelPoint', id: there.id, op: 'update', fields: { levelDb: held(db) } }
        : added(cell, { tick, value: db }),
    ],
    'level point',
  );
}

/** Removes the point at a place, if there is one. */
export function removeMove(cell: Cell, tick: number): void {
  const there = movesOf(useDocuments.getState().records, cell).find((point) => point.tick === tick);
  if (there) edit('Delete a level point', [removed(there)]);
}

/** Lets a cell rest at its level all through the open cue. */
export function clearMoves(cell: Cell): void {
  const curve = movesOf(useDocuments.getState().records, cell);
  if (curve.length > 0) edit('Let the level rest', curve.map(removed));
}

/** A ride of a cell while the cue plays, and of those linked with it: all move alike against their mix. */
let ride: { cells: Cell[]; line: { tick: number; value: number }[] } | undefined;

/** Rides a cell's level, and that of linked ones, at a place of the cue: heard at once, thinned and kept when the ride ends. */
export function rideMove(cell: Cell, tick: number, db: number): void {
  const point = { tick: Math.round(tick), value: held(db) };
  const own = ride?.cells[0];
  const last = ride?.line.at(-1);
  // Where a loop begins anew, or the cue is located, another ride begins.
  const goesOn = own?.trackId === cell.trackId && own.positionId === cell.positionId;
  if (!ride || !last || !goesOn || point.tick < last.tick) {
    endRide();
    ride = { cells: [cell, ...linkedCells(cell)], line: [point] };
  } else if (last.tick === point.tick) last.value = point.value;
  else ride.line.push(point);
  const { cells, line } = ride;
  edit(
    'Ride a level',
    cells.flatMap((one) => replaced(one, line)),
    'ride',
  );
}

/** Cells of the same position that move along with one. */
function linkedCells({ trackId, positionId }: Cell): Cell[] {
  const { records } = useDocuments.getState();
  return linkedWith(records, trackId).flatMap((id) => {
    const one = { trackId: id, positionId };
    return id !== trackId && cellOf(records, one) ? one : [];
  });
}

/** Ends a ride: what was ridden is thinned. Within a gesture it becomes one step with it. */
export function endRide(): void {
  if (!ride) return;
  const { cells, line } = ride;
  ride = undefined;
  const thinned = thinCurve(line, TOLERANCE_DB);
  edit(
    'Ride a level',
    cells.flatMap((cell) => replaced(cell, thinned)),
  );
}
