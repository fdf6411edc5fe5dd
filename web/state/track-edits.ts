import { naturalId, type RecordFields } from '#api/index.ts';
import type { Instrument } from '#core/catalogue/index.ts';
import { firstArticulation } from '#core/keymap/index.ts';
import { PLAIN_POSITION, type PositionMix } from '#core/mixing/index.ts';
import type { Edit } from './diff.ts';
import type { Records } from './tables.ts';
import { removalEdits, variantEdits, variantsOf } from './keymaps.ts';
import { edit, itemOf, listOf, ownedBy, useDocuments, type Item } from './documents.ts';

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

/** Edits that give a track another instrument with its positions; it is played by the keymap the house has for it. */
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
  const stems = new Map(
    ownedBy(records, 'positionMix', track.id).map(({ positionId, stem }) => [positionId, stem]),
  );
  return [
    {
      kind: 'track',
      id: track.id,
      op: 'update',
      fields: {
        name: nameFor(track, instrument),
        instrumentId: instrument.id,
        keymapId: null,
        family: instrument.family,
        articulation: articulation ?? firstArticulation(instrument.articulations.map(({ id }) => id)),
        ...(gainDb === undefined ? {} : { gainDb }),
        // Whoever has mixed a track keeps what it sends.
        ...(track.instrumentId === null && instrument.hallSendDb !== undefined
          ? { hallSendDb: instrument.hallSendDb }
          : {}),
      },
    },
    ...variantsOf(records, track.id).flatMap(removalEdits),
    ...ownedBy(records, 'positionMix', track.id).map((one): Edit => ({
      kind: 'positionMix',
      id: one.id,
      op: 'remove',
    })),
    ...instrument.positions.map(({ id }): Edit => {
      const { levelDb, pan, width, delayMs, muted, inverted, sendDb = 0 } = mixOf(id);
      const stem = stems.get(id) ?? '';
      return {
        kind: 'positionMix',
        id: naturalId('positionMix', track.id, id),
        op: 'add',
        fields: {
          trackId: track.id,
          positionId: id,
          levelDb,
          pan,
          width,
          delayMs,
          muted,
          inverted,
          sendDb,
          stem,
        },
      };
    }),
  ];
}

/** What a track begins with. */
export function freshTrack(name: string, place: number): RecordFields<'track'> {
  return {
    name,
    family: 'other',
    place,
    instrumentId: null,
    keymapId: null,
    articulation: 'long',
    mode: 'planned',
    gainDb: 0,
    pan: 0,
    hallSendDb: -14,
    muted: false,
  };
}

/** A fresh track at the end of the template. @returns its id */
export function addTrack(): string {
  const { records } = useDocuments.getState();
  const id = crypto.randomUUID();
  const tracks = listOf(records, 'track');
  const fields = freshTrack(`Track ${tracks.length + 1}`, (tracks.at(-1)?.place ?? 0) + 1);
  edit('Add a track', [{ kind: 'track', id, op: 'add', fields: { ...fields } }]);
  return id;
}

const UNNAMED = /^Track \d+$/;

/** Name for a track that gets an instrument: the instrument's, unless somebody has named the track. */
export function nameFor(track: Pick<Item<'track'>, 'name'>, instrument: { name: string }): string {
  return UNNAMED.test(track.name) ? instrument.name : track.name;
}

export function renameTrack(id: string, name: string): void {
  edit('Rename the track', [{ kind: 'track', id, op: 'update', fields: { name } }], `name ${id}`);
}

/** Places a track between its neighbours, one up or down. */
export function moveTrack(id: string, step: -1 | 1): void {
  const tracks = listOf(useDocuments.getState().records, 'track');
  const at = tracks.findIndex((track) => track.id === id);
  const to = at + step;
  if (at < 0 || to < 0 || to >= tracks.length) return;
  placeTrack(id, step < 0 ? to : to + 1);
}

/** Puts a track before the one that now stands at an index of the order. */
export function placeTrack(id: string, before: number): void {
  const tracks = listOf(useDocuments.getState().records, 'track');
  const below = tracks[before - 1];
  const above = tracks[before];
  if (below?.id === id || above?.id === id) return;
  const low = below?.place ?? (above?.place ?? 1) - 2;
  const high = above?.place ?? low + 2;
  // Places that have come too close for a number between them are dealt out anew.
  if (high - low > 1e-6) {
    edit('Move the track', [{ kind: 'track', id, op: 'update', fields: { place: (low + high) / 2 } }]);
    return;
  }
  const order = tracks.filter((track) => track.id !== id);
  order.splice(
    before - (tracks.findIndex((track) => track.id === id) < before ? 1 : 0),
    0,
    itemOf(useDocuments.getState().records, 'track', id) as Item<'track'>,
  );
  edit(
    'Move the track',
    order.map((track, i): Edit => ({ kind: 'track', id: track.id, op: 'update', fields: { place: i + 1 } })),
  );
}

/** What belongs to a track of a template, and comes and goes with it. */
const CHILDREN = ['positionMix', 'eqBand', 'aim', 'seat'] as const;

/** Copies a track with its positions, tone, aims and seat, right after it; a keymap of its own is copied too. @returns the copy's id */
export function duplicateTrack(id: string): string | undefined {
  const { records, templateId = '' } = useDocuments.getState();
  const tracks = listOf(records, 'track');
  const at = tracks.findIndex((track) => track.id === id);
  if (at < 0) return undefined;
  const { id: _id, ...track } = tracks[at];
  const copyId = crypto.randomUUID();
  const next = tracks[at + 1]?.place ?? track.place + 2;
  const children = CHILDREN.flatMap((kind) =>
    ownedBy(records, kind, id).map((one): Edit => {
      const { id: _childId, ...fields } = one;
      const own =
        kind === 'positionMix' && 'positionId' in fields
          ? naturalId('positionMix', copyId, fields.positionId)
          : kind === 'eqBand'
            ? crypto.randomUUID()
            : naturalId(kind, templateId, copyId);
      return { kind, id: own, op: 'add', fields: { ...fields, trackId: copyId } };
    }),
  );
  const variant = variantEdits(records, tracks[at].keymapId, id, copyId);
  edit('Duplicate the track', [
    ...(variant?.edits ?? []),
    {
      kind: 'track',
      id: copyId,
      op: 'add',
      fields: {
        ...track,
        keymapId: variant?.id ?? track.keymapId,
        name: `${track.name} copy`.slice(0, 120),
        place: (track.place + next) / 2,
      },
    },
    ...children,
  ]);
  return copyId;
}

/** Removes a track with what belongs to it. What cues hold for it stays, and is there again when this is undone. */
export function deleteTrack(id: string): void {
  const { records } = useDocuments.getState();
  edit('Delete the track', [
    ...variantsOf(records, id).flatMap(removalEdits),
    ...CHILDREN.flatMap((kind) =>
      ownedBy(records, kind, id).map((one): Edit => ({ kind, id: one.id, op: 'remove' })),
    ),
    { kind: 'track', id, op: 'remove' },
  ]);
}
