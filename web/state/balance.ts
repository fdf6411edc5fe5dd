import { naturalId, type RecordFields, type Slot } from '#api/index.ts';
import { byNearness, positionName, type Family } from '#core/catalogue/index.ts';
import { readMix, writeMix, type KeptMix, type KeptTrack } from '#core/balance/index.ts';
import type { EqBand, TrackMix } from '#core/mixing/index.ts';
import { clamp } from '#core/units/index.ts';
import { orderedTracks } from './cue.ts';
import type { Edit } from './diff.ts';
import { edit, itemOf, listOf, ownedBy, useDocuments, type Item } from './documents.ts';
import type { Records } from './tables.ts';

/** A cell of the balance: one position of one track. */
export interface Cell {
  trackId: string;
  positionId: string;
}

/** Lowest and highest level of a ruler. */
const [LOWEST_DB, HIGHEST_DB] = [-60, 12];
const BAR = '|';

/** The cell's record, or undefined where the track has no such position. */
export function cellOf(records: Records, { trackId, positionId }: Cell): Item<'positionMix'> | undefined {
  return ownedBy(records, 'positionMix', trackId).find((one) => one.positionId === positionId);
}

/** Columns of the matrix: kinds of positions that any track has, near to far. */
export function columnsOf(records: Records): { id: string; name: string }[] {
  const ids = new Set(listOf(records, 'positionMix').map(({ positionId }) => positionId));
  return [...ids].sort(byNearness).map((id) => ({ id, name: positionName(id) }));
}

/** Tracks that move with one: those of active links it belongs to, itself among them, in their order. */
export function linkedWith(records: Records, trackId: string): string[] {
  const linked = new Set([trackId]);
  for (const link of listOf(records, 'link')) {
    const ids = membersOf(link);
    if (link.active && ids.includes(trackId)) for (const id of ids) linked.add(id);
  }
  return orderedTracks(records).flatMap(({ id }) => (linked.has(id) ? id : []));
}

/** Tracks of a link. */
export const membersOf = ({ trackIds }: Pick<Item<'link'>, 'trackIds'>): string[] =>
  trackIds.split(BAR).filter(Boolean);

/** Links all tracks of a family, or unlinks them. */
export function toggleFamilyLink(family: Family): void {
  const { records } = useDocuments.getState();
  const ids = orderedTracks(records).flatMap((track) => (track.family === family ? track.id : []));
  const trackIds = ids.join(BAR);
  const known = listOf(records, 'link').find(({ name }) => name === family);
  const link = { name: family, trackIds, active: true };
  if (!known) edit(`Link ${family}`, [{ kind: 'link', id: crypto.randomUUID(), op: 'add', fields: link }]);
  else
    edit(known.active ? `Unlink ${family}` : `Link ${family}`, [
      { kind: 'link', id: known.id, op: 'update', fields: known.active ? { active: false } : link },
    ]);
}

/** Whether the tracks of a family are linked. */
export function isLinked(records: Records, family: Family): boolean {
  return listOf(records, 'link').some(({ name, active }) => name === family && active);
}

/** Levels before a gesture, so that what is moved relative to them keeps its differences even beyond the ends. */
let began: { key: string; levels: Map<string, number> } | undefined;

/** Forgets where a gesture began. */
export function endCellGesture(): void {
  began = undefined;
}

/**
 * Moves a cell's level; the same position of linked tracks moves by as much.
 * @param gesture true while a ruler is dragged: differences are those from before
 */
export function moveCell(cell: Cell, levelDb: number, gesture = false): void {
  const { records } = useDocuments.getState();
  const key = `${cell.trackId} ${cell.positionId}`;
  if (!gesture || began?.key !== key) {
    const levels = new Map<string, number>();
    for (const trackId of linkedWith(records, cell.trackId)) {
      const own = cellOf(records, { ...cell, trackId });
      if (own) levels.set(own.id, own.levelDb);
    }
    began = { key, levels };
  }
  const own = cellOf(records, cell);
  if (!own) return;
  const by = levelDb - (began.levels.get(own.id) ?? own.levelDb);
  const edits = [...began.levels].map(([id, before]): Edit => {
    // What is off stays off, unless it is the one that is moved.
    const moved = id === own.id ? levelDb : before <= LOWEST_DB ? before : before + by;
    return { kind: 'positionMix', id, op: 'update', fields: { levelDb: inRange(moved) } };
  });
  edit(`Level of ${positionName(cell.positionId)}`, edits, `cell ${key}`);
  if (!gesture) began = undefined;
}

const inRange = (levelDb: number) => Math.round(clamp(levelDb, LOWEST_DB, HIGHEST_DB) * 10) / 10 + 0;

/** Changes other settings of a cell; linked tracks take the same. */
export function changeCell(
  cell: Cell,
  label: string,
  fields: Partial<Omit<RecordFields<'positionMix'>, 'trackId' | 'positionId' | 'levelDb'>>,
  merge?: string,
): void {
  const { records } = useDocuments.getState();
  const edits = linkedWith(records, cell.trackId).flatMap((trackId): Edit[] => {
    const own = cellOf(records, { ...cell, trackId });
    return own ? [{ kind: 'positionMix', id: own.id, op: 'update', fields }] : [];
  });
  edit(label, edits, merge);
}

/** Stems that cells of the template go to, by name, in order of the alphabet. */
export function stemNames(records: Records): string[] {
  const names = new Set(listOf(records, 'positionMix').map(({ stem }) => stem));
  names.delete('');
  return [...names].sort((a, b) => a.localeCompare(b));
}

/** Sends all positions of a track, and of those linked with it, to one stem; an empty name is that of the family. */
export function sendTrackTo(trackId: string, stem: string): void {
  const { records } = useDocuments.getState();
  const edits = linkedWith(records, trackId).flatMap((id) =>
    ownedBy(records, 'positionMix', id).flatMap((own): Edit[] =>
      own.stem === stem ? [] : [{ kind: 'positionMix', id: own.id, op: 'update', fields: { stem } }],
    ),
  );
  if (edits.length > 0) edit(stem === '' ? 'Stem of its family' : `To the stem “${stem}”`, edits);
}

/** Levels of several positions of one track at once, by position; as one step. */
export function setLevels(
  trackId: string,
  levels: Readonly<Record<string, number>>,
  label: string,
  merge?: string,
): void {
  const { records } = useDocuments.getState();
  const edits = Object.entries(levels).flatMap(([positionId, levelDb]): Edit[] => {
    const own = cellOf(records, { trackId, positionId });
    const next = inRange(levelDb);
    return own && own.levelDb !== next
      ? [{ kind: 'positionMix', id: own.id, op: 'update', fields: { levelDb: next, muted: false } }]
      : [];
  });
  if (edits.length > 0) edit(label, edits, merge);
}

/** Takes a mix that was proposed for a track, as one step. */
export function takeMix(trackId: string, mix: TrackMix, label: string): void {
  takeMixes([{ trackId, mix }], label);
}

/** Takes mixes of several tracks, as one step. */
export function takeMixes(mixes: readonly { trackId: string; mix: TrackMix }[], label: string): void {
  const { records } = useDocuments.getState();
  edit(
    label,
    mixes.flatMap(({ trackId, mix }) => mixEdits(records, trackId, mix)),
  );
}

/** Adds tone to positions of a track and takes a mix for it, as one step. */
export function fitTrackToRoom(
  trackId: string,
  fits: readonly { positionId: string; bands: readonly EqBand[] }[],
  mix: TrackMix | undefined,
  label: string,
): void {
  const tone = fits.flatMap(({ positionId, bands }) =>
    bands.map((band): Edit => ({
      kind: 'eqBand',
      id: crypto.randomUUID(),
      op: 'add',
      fields: { ...band, trackId, positionId, active: true },
    })),
  );
  edit(label, [...(mix ? mixEdits(useDocuments.getState().records, trackId, mix) : []), ...tone]);
}

/** Edits that bring a track to a mix; its tone stays. */
export function mixEdits(records: Records, trackId: string, mix: TrackMix): Edit[] {
  const positions = Object.entries(mix.positions).flatMap(([positionId, own]): Edit[] => {
    const known = cellOf(records, { trackId, positionId });
    if (!known) return [];
    const { levelDb, pan, width, delayMs, muted, inverted, sendDb = 0 } = own;
    const fields = { levelDb: inRange(levelDb), pan, width, delayMs, muted, inverted, sendDb };
    return [{ kind: 'positionMix', id: known.id, op: 'update', fields }];
  });
  const { gainDb, pan, hallSendDb } = mix;
  return [{ kind: 'track', id: trackId, op: 'update', fields: { gainDb, pan, hallSendDb } }, ...positions];
}

/** The mix of the open template as it stands. */
export function presentMix(records: Records): KeptMix {
  return { tracks: orderedTracks(records).map((track) => keptTrack(records, track)) };
}

function keptTrack(records: Records, { id, name, gainDb, pan, hallSendDb }: Item<'track'>): KeptTrack {
  return {
    id,
    name,
    gainDb,
    pan,
    hallSendDb,
    positions: Object.fromEntries(
      ownedBy(records, 'positionMix', id).map(
        ({ positionId, levelDb, pan: own, width, delayMs, muted, inverted, sendDb }) => [
          positionId,
          { levelDb, pan: own, width, delayMs, muted, inverted, sendDb },
        ],
      ),
    ),
    bands: keptBands(records, id),
  };
}

const keptBands = (records: Records, trackId: string): KeptTrack['bands'] =>
  ownedBy(records, 'eqBand', trackId).map(({ positionId, shape, hertz, gainDb, q, active }) => ({
    positionId,
    shape,
    hertz,
    gainDb,
    q,
    active,
  }));

/** Edits that bring one track to what was kept of it, or of another whose positions it has in common. */
function editsTo(records: Records, trackId: string, kept: KeptTrack): Edit[] {
  const { gainDb, pan, hallSendDb } = kept;
  const bands = ownedBy(records, 'eqBand', trackId);
  const tone: Edit[] =
    JSON.stringify(keptBands(records, trackId)) === JSON.stringify(kept.bands)
      ? []
      : [
          ...bands.map(({ id }): Edit => ({ kind: 'eqBand', id, op: 'remove' })),
          ...kept.bands.map((band): Edit => ({
            kind: 'eqBand',
            id: crypto.randomUUID(),
            op: 'add',
            fields: { ...band, trackId },
          })),
        ];
  return [
    { kind: 'track', id: trackId, op: 'update', fields: { gainDb, pan, hallSendDb } },
    ...ownedBy(records, 'positionMix', trackId).flatMap((own): Edit[] => {
      const fields = kept.positions[own.positionId];
      return fields ? [{ kind: 'positionMix', id: own.id, op: 'update', fields }] : [];
    }),
    ...tone,
  ];
}

/** Brings the template to a kept mix: tracks are known by their id, or else by their name. @returns names of tracks it says nothing of */
export function recallMix(mix: KeptMix, label: string): string[] {
  const { records } = useDocuments.getState();
  const byId = new Map(mix.tracks.map((one) => [one.id, one]));
  const byName = new Map(mix.tracks.map((one) => [one.name, one]));
  const unknown: string[] = [];
  const edits = orderedTracks(records).flatMap((track): Edit[] => {
    const kept = byId.get(track.id) ?? byName.get(track.name);
    if (!kept) unknown.push(track.name);
    return kept ? editsTo(records, track.id, kept) : [];
  });
  if (edits.length > 0) edit(label, edits);
  return unknown;
}

/** Copies how one track is mixed to others, as far as they have its positions. */
export function copyMixTo(fromId: string, toIds: readonly string[], label: string): void {
  const { records } = useDocuments.getState();
  const from = itemOf(records, 'track', fromId);
  if (!from) return;
  const kept = keptTrack(records, from);
  edit(
    label,
    toIds.flatMap((id) => (id === fromId ? [] : editsTo(records, id, kept))),
  );
}

/** The mix that is kept in a slot. */
export function snapshotIn(records: Records, slot: Slot): KeptMix | undefined {
  const found = listOf(records, 'snapshot').find((one) => one.slot === slot);
  return found && readMix(found.mix);
}

/** Keeps the present mix in a slot. */
export function keepIn(slot: Slot): void {
  const { records, templateId = '' } = useDocuments.getState();
  const mix = writeMix(presentMix(records));
  const known = listOf(records, 'snapshot').find((one) => one.slot === slot);
  edit(`Keep the mix as ${slot}`, [
    known
      ? { kind: 'snapshot', id: known.id, op: 'update', fields: { mix } }
      : { kind: 'snapshot', id: naturalId('snapshot', templateId, slot), op: 'add', fields: { slot, mix } },
  ]);
}

/** Keeps the present mix under a name, for all templates of the studio. */
export function keepNamed(name: string): void {
  const { records } = useDocuments.getState();
  const mix = writeMix(presentMix(records));
  const known = listOf(records, 'keptMix').find((one) => one.name === name);
  edit(`Keep the mix “${name}”`, [
    known
      ? { kind: 'keptMix', id: known.id, op: 'update', fields: { mix } }
      : { kind: 'keptMix', id: crypto.randomUUID(), op: 'add', fields: { name, mix } },
  ]);
}
