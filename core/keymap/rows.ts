import type { Entry, Keymap, Source, Trigger } from './keymap.ts';
import type { Ride, TouchRules } from './responses.ts';

/** A keymap as it is kept: flat rows that point to each other by id. */
export type KeymapRow = {
  readonly id: string;
  readonly name: string;
  readonly initial: string;
} & TouchRules;
export interface EntryRow {
  readonly id: string;
  readonly keymapId: string;
  readonly articulation: string;
  readonly place: number;
  /** −1 is no morph. */
  readonly morph: number;
}
export type SourceRow = Source & { readonly entryId: string; readonly place: number };
export type TriggerRow = Omit<Trigger, 'set'> & { readonly entryId: string; readonly alternative: number };

const byPlace = (a: { place: number; id: string }, b: { place: number; id: string }) =>
  a.place - b.place || (a.id < b.id ? -1 : 1);

/** Puts rows together; order follows their places, triggers of an entry their number. */
export function keymapOfRows(
  { id, name, initial, longVelocityDb, hardAttackFrom, slideBelow, bowFrom, shortDynamics }: KeymapRow,
  entries: readonly EntryRow[],
  sourcesOf: (entryId: string) => readonly SourceRow[],
  triggersOf: (entryId: string) => readonly TriggerRow[],
  rides: readonly Ride[] = [],
): Keymap {
  return {
    id,
    name,
    initial,
    rides: rides.map(rideOf),
    touch: { longVelocityDb, hardAttackFrom, slideBelow, bowFrom, shortDynamics },
    entries: [...entries].sort(byPlace).map((row): Entry => ({
      id: row.id,
      articulation: row.articulation,
      sources: [...sourcesOf(row.id)].sort(byPlace).map(sourceOf),
      triggers: triggersOf(row.id).map(triggerOf).sort(byCondition),
      ...(row.morph < 0 ? {} : { morph: row.morph }),
    })),
  };
}

// Rows carry more than the model: what they belong to, their version.
const sourceOf = ({
  id,
  articulation,
  levelDb,
  velocityLow,
  velocityHigh,
  part,
  morphAt,
}: SourceRow): Source => ({ id, articulation, levelDb, velocityLow, velocityHigh, part, morphAt });

const triggerOf = ({ id, kind, alternative, number, low, high, hold }: TriggerRow): Trigger => ({
  id,
  kind,
  set: alternative,
  number,
  low,
  high,
  hold,
});

const rideOf = ({ id, parameter, controller, curve, low, high, rest, follows }: Ride): Ride => ({
  id,
  parameter,
  controller,
  curve,
  low,
  high,
  rest,
  follows,
});

const byCondition = (a: Trigger, b: Trigger) =>
  a.set - b.set || a.kind.localeCompare(b.kind) || a.number - b.number || (a.id < b.id ? -1 : 1);
