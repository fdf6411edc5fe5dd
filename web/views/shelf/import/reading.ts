import type { ImportProposal, TakeInShape } from '#api/index.ts';
import type { Family, InstrumentKind } from '#core/catalogue/index.ts';
import type { SampleFacts } from '#core/formats/index.ts';
import {
  foundInNames,
  guessFamily,
  guessMeanings,
  nameFiles,
  readPattern,
  wordKey,
  type Meaning,
  type NamedFile,
  type WordMeaning,
} from '#core/intake/index.ts';
import type { MiddleC } from '#core/music/index.ts';

/** What somebody says an instrument is, against what was guessed. */
export interface InstrumentSaid {
  family?: Family;
  kind?: InstrumentKind;
  players?: number;
}

/** Corrections of the guesses: of words by their key, of instruments by their name. */
export interface Said {
  words: Readonly<Record<string, Partial<Meaning>>>;
  instruments: Readonly<Record<string, InstrumentSaid>>;
}

type Named = NamedFile[] | string;
type Head = Pick<TakeInShape, 'library' | 'maker' | 'pattern' | 'middleC'>;

/** What the files are taken to be. */
export interface Reading {
  /** Whether the names of the files tell what they are. */
  byName: boolean;
  named: Named;
  words: WordMeaning[];
  instruments: (Required<InstrumentSaid> & { name: string; reason: string })[];
  /** False while no file can be used. */
  usable: boolean;
}

/** Reads a proposal: guesses, what was remembered of the maker, and over both what is said now. */
export function readingOf(
  proposal: ImportProposal,
  { library, maker, pattern = '', middleC = 4 }: Head,
  said: Said,
): Reading {
  const byName = proposal.kind === 'recordings' && !proposal.recording;
  const paths = proposal.files.map((file) => file.path);
  const named = byName ? namesBy(pattern, paths, middleC) : [];
  const guessed = byName ? wordsOfNames(proposal, named, library) : proposal.words;
  const remembered = proposal.remembered[maker.trim().toLowerCase()] ?? {};
  const words = guessed.map((word): WordMeaning => {
    const key = wordKey(word);
    const before = remembered[key];
    return {
      ...word,
      ...(before ? { ...before, reason: `means this, as you set it for ${maker.trim()} before` } : {}),
      ...said.words[key],
      ...(said.words[key] ? { reason: 'means what you say' } : {}),
    };
  });
  const instruments = instrumentsOf(proposal, named, library).map((one) => ({
    ...one,
    ...said.instruments[one.name],
  }));
  const usable = !byName || (typeof named !== 'string' && named.some((file) => !file.problem));
  return { byName, named, words, instruments, usable };
}

/** A reading as it is sent. */
export function decided({ byName, words, instruments }: Reading): Partial<TakeInShape> {
  return {
    words: words.map(({ kind, text, articulation, position, layer, take, instrument }) => ({
      kind,
      text,
      articulation,
      position,
      layer,
      take,
      instrument,
    })),
    instruments: instruments.map(({ name, family, kind, players }) => ({ name, family, kind, players })),
    ...(byName ? {} : { pattern: undefined, middleC: undefined }),
  };
}

/** What a pattern makes of file names, or why it makes nothing. */
function namesBy(pattern: string, paths: readonly string[], middleC: MiddleC): Named {
  const tokens = readPattern(pattern);
  return typeof tokens === 'string' ? tokens : nameFiles(paths, tokens, middleC);
}

function factsOf(proposal: ImportProposal): Map<string, SampleFacts> {
  return new Map(
    proposal.files.map(({ path, frames, rate, looped }) => [
      path,
      { frames, rate, loops: looped ? [{ start: 0, end: frames }] : [] },
    ]),
  );
}

function wordsOfNames(proposal: ImportProposal, named: Named, library: string): WordMeaning[] {
  return typeof named === 'string' ? [] : guessMeanings(foundInNames(named, factsOf(proposal), library));
}

function instrumentsOf(
  proposal: ImportProposal,
  named: Named,
  library: string,
): { name: string; family: Family; kind: InstrumentKind; players: number; reason: string }[] {
  if (proposal.recording)
    return [{ name: proposal.recording.path, players: 1, ...guessFamily(proposal.recording.path) }];
  if (proposal.kind !== 'recordings') return proposal.instruments;
  if (typeof named === 'string') return [];
  const names = new Set(named.flatMap((file) => (file.problem ? [] : [file.parts.instrument ?? library])));
  return [...names].map((name) => ({ name, players: 1, ...guessFamily(name) }));
}
