import { useMemo } from 'react';
import {
  articulationTerm,
  playableRange,
  type Articulation,
  type ArticulationGroup,
} from '#core/catalogue/index.ts';
import {
  articulationFor,
  intoRange,
  mixOfLevels,
  PHRASES,
  plainLevels,
  readPhrase,
  sharedRange,
  writePhrase,
  type WrittenPhrase,
} from '#core/listen/index.ts';
import type { RenderOrder } from '../../sound/renderings.ts';
import { useList, type Item } from '../../state/documents.ts';
import type { Contender } from './contenders.ts';
import { REST_BPM, useListen } from './listen-state.ts';

/** A phrase as the contenders play it. */
export interface PhraseRow {
  id: string;
  name: string;
  tells: string;
  own: boolean;
  /** In the order of the contenders; undefined where one has no fitting technique or is not known yet. */
  cells: (RenderOrder | undefined)[];
  /** Name of the technique, when all play it with the same. */
  technique: string;
}

/** Kinds of techniques that can play phrases of a kind, when a contender is one technique only. */
const PLAYS: Record<ArticulationGroup, readonly ArticulationGroup[]> = {
  long: ['long', 'connected', 'dynamic', 'pattern'],
  short: ['short'],
  connected: ['connected', 'long'],
  dynamic: ['dynamic'],
  pattern: ['pattern'],
};

/** The technique with which a contender plays phrases of a kind; undefined when it has none that fits. */
export function techniqueOf(
  { instrument, articulation }: Contender,
  suits: ArticulationGroup,
): Articulation | undefined {
  if (!instrument) return undefined;
  const found = articulationFor(instrument, suits, articulation);
  if (!found || articulation === '') return found;
  // Percussion and keys have one kind of note only; it plays everything.
  if (found.id === 'hit') return found;
  return PLAYS[suits].includes(articulationTerm(found.id).group) ? found : undefined;
}

interface RowKind {
  id: string;
  name: string;
  suits: ArticulationGroup;
  tells: string;
  own?: { text: string; bpm: number };
}

/** Rows of a line-up: every phrase that at least one contender can play. */
export function rowsOf(
  contenders: readonly Contender[],
  ownPhrases: readonly Item<'ownPhrase'>[],
  bpm: number,
): PhraseRow[] {
  const kinds: RowKind[] = [
    ...PHRASES.map(({ id, name, suits, tells }) => ({ id, name, suits, tells })),
    ...ownPhrases.map(({ id, name, suits, written, bpm: own }) => ({
      id,
      name,
      suits,
      tells: 'A phrase of your own.',
      own: { text: written, bpm: own },
    })),
  ];
  return kinds.flatMap((kind) => {
    const techniques = contenders.map((one) => techniqueOf(one, kind.suits));
    const playing = techniques.filter((one) => one !== undefined);
    // While descriptions are on their way, the rows are there already.
    if (playing.length === 0 && contenders.every((one) => one.instrument !== undefined)) return [];
    const shared = sharedRange(playing);
    const names = new Set(playing.map((one) => articulationTerm(one.id).name));
    return [
      {
        id: kind.id,
        name: kind.name,
        tells: kind.tells,
        own: kind.own !== undefined,
        technique: names.size === 1 ? [...names][0] : '',
        cells: contenders.map((one, i) => orderOf(one, techniques[i], shared, kind, bpm)),
      },
    ];
  });
}

function orderOf(
  { instrument, instrumentId }: Contender,
  technique: Articulation | undefined,
  shared: { low: number; high: number } | undefined,
  kind: RowKind,
  bpm: number,
): RenderOrder | undefined {
  const range = shared ?? (technique && playableRange(technique));
  if (!instrument || !technique || !range) return undefined;
  const tempo = kind.own ? Math.round((kind.own.bpm * bpm * 10) / REST_BPM) / 10 : bpm;
  let phrase: WrittenPhrase;
  if (kind.own) {
    const read = readPhrase(kind.own.text);
    if (!read) return undefined;
    phrase = intoRange(read, range);
  } else phrase = writePhrase(kind.id, range, bpm);
  return {
    name: `${instrumentId} ${technique.id} ${kind.id} ${range.low}–${range.high} at ${tempo}`,
    instrumentId,
    articulation: technique.id,
    phrase,
    bpm: tempo,
    mix: mixOfLevels(plainLevels(instrument)),
  };
}

/** Hook: rows of a line-up. */
export function useRows(contenders: readonly Contender[]): readonly PhraseRow[] {
  const own = useList('ownPhrase');
  const bpm = useListen((state) => state.bpm);
  return useMemo(() => rowsOf(contenders, own, bpm), [contenders, own, bpm]);
}
