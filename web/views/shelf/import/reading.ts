import type { ImportProposal, TakeInShape } from '#api/index.ts';
import { positionName, type Family, type InstrumentKind } from '#core/catalogue/index.ts';
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

/** What somebody says of files that look like positions of one instrument. */
export interface JoinSaid {
  isJoined?: boolean;
  /** Position of each file by its name; '' makes it an instrument of its own. */
  positions?: Readonly<Record<string, string>>;
}

/** Corrections of the guesses: of words by their key, of instruments and of joined files by their name. */
export interface Said {
  words: Readonly<Record<string, Partial<Meaning>>>;
  instruments: Readonly<Record<string, InstrumentSaid>>;
  joins: Readonly<Record<string, JoinSaid>>;
}

/** An offer to join files, as it stands. */
export interface JoinRow {
  name: string;
  reason: string;
  isJoined: boolean;
  files: { file: string; position: string }[];
  /** Why it cannot be joined so. */
  trouble: string | undefined;
}

type Named = NamedFile[] | string;
type Head = Pick<TakeInShape, 'library' | 'maker' | 'pattern' | 'middleC'>;

/** What the files are taken to be. */
export interface Reading {
  /** Whether the names of the files tell what they are. */
  byName: boolean;
  named: Named;
  words: WordMeaning[];
  instruments: (Required<InstrumentSaid> & {
    name: string;
    reason: string;
    /** False where nothing told its family: then it is asked. */
    isTold: boolean;
    example: string | null;
  })[];
  /** How many families nobody has told yet. */
  asked: number;
  joins: JoinRow[];
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
  const joins = joinsOf(proposal, said);
  const instruments = instrumentsOf(proposal, named, library, joins).map((one) => ({
    ...one,
    ...said.instruments[one.name],
  }));
  const asked = instruments.filter(
    ({ name, isTold }) => !isTold && said.instruments[name]?.family === undefined,
  ).length;
  const usable =
    asked === 0 &&
    (!byName || (typeof named !== 'string' && named.some((file) => !file.problem))) &&
    joins.every(({ isJoined, trouble }) => !isJoined || trouble === undefined);
  return { byName, named, words, instruments, joins, asked, usable };
}

/** Offers with what was said of them. */
function joinsOf({ joins }: ImportProposal, said: Said): JoinRow[] {
  return joins.map(({ name, reason, isSure, files }) => {
    const { isJoined = isSure, positions = {} } = said.joins[name] ?? {};
    const rows = files.map(({ file, position }) => ({ file, position: positions[file] ?? position }));
    const taken = rows.flatMap(({ position }) => (position === '' ? [] : position));
    const twice = taken.find((one, i) => taken.indexOf(one) !== i);
    const trouble =
      taken.length < 2
        ? 'One file alone is no join; give another one a position, or take them in apart.'
        : twice === undefined
          ? undefined
          : `Two files are to be the position ${positionName(twice).toLowerCase()}.`;
    return { name, reason, isJoined, files: rows, trouble };
  });
}

/** Files of an offer that make one instrument. */
const joinedFiles = ({ isJoined, files }: JoinRow) =>
  isJoined ? files.filter(({ position }) => position !== '') : [];

/** A reading as it is sent. */
export function decided({ byName, words, instruments, joins }: Reading): Partial<TakeInShape> {
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
    joins: joins.flatMap((row) => (row.isJoined ? { name: row.name, files: joinedFiles(row) } : [])),
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
  joins: readonly JoinRow[],
): Reading['instruments'] {
  if (proposal.recording)
    return [
      { name: proposal.recording.path, players: 1, example: null, ...guessFamily(proposal.recording.path) },
    ];
  if (proposal.kind !== 'recordings') {
    const joined = joins.filter(({ isJoined }) => isJoined);
    const members = new Set(joined.flatMap((row) => joinedFiles(row).map(({ file }) => file)));
    return [
      ...joined.map((row) => ({
        name: row.name,
        players: 1,
        ...guessFamily(row.name),
        example: proposal.instruments.find(({ name }) => name === joinedFiles(row)[0]?.file)?.example ?? null,
      })),
      ...proposal.instruments.filter(({ name }) => !members.has(name)),
    ];
  }
  if (typeof named === 'string') return [];
  const names = new Set(named.flatMap((file) => (file.problem ? [] : [file.parts.instrument ?? library])));
  return [...names].map((name) => ({
    name,
    players: 1,
    ...guessFamily(name),
    example: named.find((file) => !file.problem && (file.parts.instrument ?? library) === name)?.path ?? null,
  }));
}
