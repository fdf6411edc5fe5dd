import type { Instrument } from '#core/catalogue/index.ts';
import { initialKeymap } from '#core/keymap/index.ts';
import { PLAIN_POSITION, type PositionMix } from '#core/mixing/index.ts';
import type { Edit, Records } from './diff.ts';
import { listOf, type Item } from './documents.ts';

/** Level of positions of an instrument that is new on a track. */
const FIRST_LEVEL_DB = -6;

/** How an instrument comes to a track. */
interface Arrival {
  /** Articulation of notes without a mark; the first that is not connected unless given. */
  articulation?: string;
  gainDb?: number;
  /** Settings of its positions; equal ones for all unless given. */
  positions?: Readonly<Record<string, PositionMix>>;
}

/** Edits that give a track another instrument, with its positions and a first keymap in place of the old ones. */
export function instrumentEdits(
  records: Records,
  track: Item<'track'>,
  instrument: Instrument,
  { articulation, gainDb, positions }: Arrival = {},
): Edit[] {
  const mixOf = (id: string): PositionMix =>
    positions
      ? (positions[id] ?? { ...PLAIN_POSITION, levelDb: -60 })
      : { ...PLAIN_POSITION, levelDb: FIRST_LEVEL_DB };
  return [
    {
      kind: 'track',
      id: track.id,
      op: 'update',
      fields: {
        instrumentId: instrument.id,
        family: instrument.family,
        articulation:
          articulation ??
          instrument.articulations.find((one) => one.id !== 'connected')?.id ??
          instrument.articulations[0].id,
        ...(gainDb === undefined ? {} : { gainDb }),
      },
    },
    ...listOf(records, 'trigger')
      .filter((one) => one.trackId === track.id)
      .map((one): Edit => ({ kind: 'trigger', id: one.id, op: 'remove' })),
    ...listOf(records, 'positionMix')
      .filter((one) => one.trackId === track.id)
      .map((one): Edit => ({ kind: 'positionMix', id: one.id, op: 'remove' })),
    ...initialKeymap(instrument).map((one): Edit => ({
      kind: 'trigger',
      id: crypto.randomUUID(),
      op: 'add',
      fields: { ...one, trackId: track.id },
    })),
    ...instrument.positions.map(({ id }): Edit => {
      const { levelDb, pan, width, delayMs, muted, inverted } = mixOf(id);
      return {
        kind: 'positionMix',
        id: crypto.randomUUID(),
        op: 'add',
        fields: { trackId: track.id, positionId: id, levelDb, pan, width, delayMs, muted, inverted },
      };
    }),
  ];
}
