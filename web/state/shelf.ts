import { naturalId, type RecordFields } from '#api/index.ts';
import { followSwitches } from '../sound/instruments.ts';
import type { Records } from './tables.ts';
import { edit, listOf, useDocuments, useList, type Item } from './documents.ts';

/** The studio's own word on its instruments: stars, verdicts, notes, what is switched off, saved sounds. */

type Mark = Item<'shelfMark'>;

const FRESH = { starred: false, verdict: '', note: '', off: '', replaces: '' } as const;

/** Marks by instrument id. */
export function marksOf(marks: readonly Mark[]): Map<string, Mark> {
  return new Map(marks.map((mark) => [mark.instrumentId, mark]));
}

const marksNow = () => marksOf(listOf(useDocuments.getState().records, 'shelfMark'));

/** Hook: the mark of one instrument, or undefined. */
export function useMark(instrumentId: string): Mark | undefined {
  return useList('shelfMark').find((mark) => mark.instrumentId === instrumentId);
}

/** Changes what the studio says of an instrument. */
export function changeMark(
  instrumentId: string,
  label: string,
  fields: Partial<Omit<RecordFields<'shelfMark'>, 'instrumentId'>>,
  merge?: string,
): void {
  const known = marksNow().get(instrumentId);
  if (known) edit(label, [{ kind: 'shelfMark', id: known.id, op: 'update', fields }], merge);
  else
    edit(
      label,
      [
        {
          kind: 'shelfMark',
          id: naturalId('shelfMark', useDocuments.getState().shelfId ?? '', instrumentId),
          op: 'add',
          fields: { ...FRESH, instrumentId, ...fields },
        },
      ],
      merge,
    );
}

/** Articulations of an instrument that are switched off. */
export function offOf(mark: Pick<Mark, 'off'> | undefined): Set<string> {
  return new Set((mark?.off ?? '').split('|').filter(Boolean));
}

/** Switches an articulation on or off; what is off is not loaded. */
export function switchArticulation(instrumentId: string, articulation: string, on: boolean): void {
  const off = offOf(marksNow().get(instrumentId));
  if (on) off.delete(articulation);
  else off.add(articulation);
  changeMark(instrumentId, `${on ? 'Switch on' : 'Switch off'} ${articulation}`, { off: [...off].join('|') });
}

/** Levels of a saved sound as they are stored: `close:-4|tree:0`. */
export function levelsText(levels: Readonly<Record<string, number>>): string {
  return Object.entries(levels)
    .map(([id, level]) => `${id}:${Math.round(level * 10) / 10}`)
    .join('|');
}

/** Inverse of `levelsText`; what cannot be read is left out. */
export function readLevels(text: string): Record<string, number> {
  return Object.fromEntries(
    text.split('|').flatMap((pair) => {
      const cut = pair.lastIndexOf(':');
      const level = Number(pair.slice(cut + 1));
      return cut > 0 && Number.isFinite(level) ? [[pair.slice(0, cut), level]] : [];
    }),
  );
}

/** Keeps what is loaded in step with what is switched off. Call once. */
export function followShelf(): void {
  const follow = (records: Records) =>
    followSwitches(new Map(listOf(records, 'shelfMark').map((mark) => [mark.instrumentId, offOf(mark)])));
  useDocuments.subscribe((state, before) => {
    if (state.records.shelfMark !== before.records.shelfMark) follow(state.records);
  });
}
