import { useEffect, useMemo, useState } from 'react';
import type { Instrument } from '#core/catalogue/index.ts';
import type { InstrumentSummary, LibrarySummary } from '#api/index.ts';
import { openInstrument } from '../../sound/instruments.ts';
import { useDocuments, useOwnedBy, type Item } from '../../state/documents.ts';
import { useLibraries } from '../../state/libraries.ts';
import { chosenLineUp } from '../../state/listen.ts';
import { useListen } from './listen-state.ts';

/** A contender as the view knows it. */
export interface Contender {
  id: string;
  /** A, B, C … */
  letter: string;
  instrumentId: string;
  /** Empty for the whole instrument. */
  articulation: string;
  summary: InstrumentSummary | undefined;
  library: LibrarySummary | undefined;
  /** Its description with all zones, once it is here. */
  instrument: Instrument | undefined;
  /** Why it cannot be heard. */
  trouble: string | undefined;
}

/** Name of a contender for people: its instrument and, unless it is whole, its technique. */
export function contenderName({ summary, articulation }: Contender): string {
  const technique = summary?.articulations.find((one) => one.id === articulation)?.name ?? articulation;
  return `${summary?.name ?? 'An instrument no longer here'}${articulation ? `, ${technique}` : ''}`;
}

/** Hook: the chosen line-up. */
export function useLineUp(): Item<'lineUp'> | undefined {
  const chosen = useListen((state) => state.lineUpId);
  return useDocuments((state) => chosenLineUp(state.records, chosen));
}

/** Hook: contenders of the chosen line-up with what is known of their instruments. */
export function useContenders(): readonly Contender[] {
  const lineUpId = useLineUp()?.id;
  const libraries = useLibraries((state) => state.libraries);
  const list = useOwnedBy('contender', lineUpId ?? '');
  const known = useDescriptions(list.map((one) => one.instrumentId));
  return useMemo(
    () =>
      list.map((one, i) => {
        const library = libraries?.find((candidate) =>
          candidate.instruments.some((instrument) => instrument.id === one.instrumentId),
        );
        const gone = libraries !== undefined && !library;
        return {
          id: one.id,
          letter: String.fromCharCode(65 + (i % 26)),
          instrumentId: one.instrumentId,
          articulation: one.articulation,
          library,
          summary: library?.instruments.find((instrument) => instrument.id === one.instrumentId),
          instrument: known[one.instrumentId]?.instrument,
          trouble: gone
            ? 'This instrument is no longer on the shelf. Bring it in again, or take it out of the line-up.'
            : known[one.instrumentId]?.trouble,
        };
      }),
    [list, libraries, known],
  );
}

type Description = { instrument?: Instrument; trouble?: string };

function useDescriptions(ids: readonly string[]): Readonly<Record<string, Description>> {
  const [known, setKnown] = useState<Readonly<Record<string, Description>>>({});
  const wanted = [...new Set(ids)].sort().join();
  useEffect(() => {
    let ended = false;
    for (const id of wanted.split(',').filter(Boolean))
      openInstrument(id).then(
        (instrument) => ended || setKnown((before) => ({ ...before, [id]: { instrument } })),
        (error: Error) => ended || setKnown((before) => ({ ...before, [id]: { trouble: error.message } })),
      );
    return () => {
      ended = true;
    };
  }, [wanted]);
  return known;
}
