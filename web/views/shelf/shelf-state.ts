import { useMemo } from 'react';
import { create } from 'zustand';
import type { LibrarySummary } from '#api/index.ts';
import {
  NO_FILTER,
  ShelfIndex,
  type Facet,
  type ShelfEntry,
  type ShelfFilter,
  type ShelfGrouping,
  type ShelfOrder,
} from '#core/catalogue/index.ts';
import { useLibraries } from '../../state/libraries.ts';
import { useList } from '../../state/documents.ts';
import { marksOf } from '../../state/shelf.ts';

interface ShelfState {
  filter: ShelfFilter;
  groupBy: ShelfGrouping;
  order: ShelfOrder;
  descending: boolean;
  /** What the side pane shows: an instrument or a library. */
  selected: { kind: 'instrument' | 'library'; id: string } | undefined;
  /** What stands side by side in place of the list. */
  comparing: 'instruments' | 'libraries' | undefined;
}

/** How the shelf is looked at; no part of any document. */
export const useShelf = create<ShelfState>(() => ({
  filter: NO_FILTER,
  groupBy: 'family',
  order: 'name',
  descending: false,
  selected: undefined,
  comparing: undefined,
}));

export const selectInstrument = (id: string) => useShelf.setState({ selected: { kind: 'instrument', id } });

/** Chooses or gives up a value of a facet. */
export function toggleFacet(facet: Facet, value: string): void {
  useShelf.setState(({ filter }) => {
    const chosen = filter.chosen[facet] ?? [];
    const next = chosen.includes(value) ? chosen.filter((one) => one !== value) : [...chosen, value];
    return { filter: { ...filter, chosen: { ...filter.chosen, [facet]: next } } };
  });
}

/** Orders by a column; again turns it around. */
export function orderBy(order: ShelfOrder): void {
  useShelf.setState((state) => ({
    order,
    descending: state.order === order ? !state.descending : false,
  }));
}

const GB = 1e9;

/** Price of a library per GB on the disk. */
export function pricePerGb(library: Pick<LibrarySummary, 'facts' | 'bytes'>): number | null {
  return library.facts.price === null || library.bytes === 0
    ? null
    : library.facts.price / (library.bytes / GB);
}

/** Hook: everything on the shelf, with the studio's own marks, ready to be searched. */
export function useShelfIndex(): { index: ShelfIndex; entries: readonly ShelfEntry[] } {
  const libraries = useLibraries((state) => state.libraries);
  const shelfMarks = useList('shelfMark');
  return useMemo(() => {
    const marks = marksOf(shelfMarks);
    const entries = (libraries ?? []).flatMap((library) =>
      library.instruments.map((instrument): ShelfEntry => {
        const mark = marks.get(instrument.id);
        return {
          id: instrument.id,
          name: instrument.name,
          library: library.name,
          maker: library.maker,
          room: library.room,
          roomSound: library.facts.roomSound,
          family: instrument.family,
          kind: instrument.kind,
          players: instrument.players,
          tags: instrument.tags,
          positions: instrument.positions.map((position) => position.name.toLowerCase()),
          articulations: instrument.articulations,
          bytes: instrument.bytes,
          price: library.facts.price,
          pricePerGb: pricePerGb(library),
          starred: mark?.starred ?? false,
          verdict: mark?.verdict ?? '',
          note: mark?.note ?? '',
        };
      }),
    );
    return { index: new ShelfIndex(entries), entries };
  }, [libraries, shelfMarks]);
}
