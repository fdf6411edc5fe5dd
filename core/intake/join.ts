import { byNearness, guessPosition, positionName } from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import type { FoundZone } from '../formats/index.ts';

/** An instrument file with what it holds. */
export interface NamedZones {
  name: string;
  zones: readonly FoundZone[];
}

/** Files that are taken as positions of one instrument. */
export interface Join {
  name: string;
  files: { file: string; position: string }[];
}

/** A join as it is offered. */
export interface OfferedJoin extends Join {
  /** True where names tell the positions; otherwise files are only built alike, and somebody has to say so. */
  isSure: boolean;
  reason: string;
}

/** More files are no positions of one instrument. */
const MOST_FILES = 16;
/** What is built alike with fewer zones is alike by chance. */
const FEWEST_ZONES = 3;

/**
 * Files with the same keys, layers and takes, whose names differ in nothing but a word for a position, as one instrument each; files
 * built alike whose names differ in one other word are offered too, to be decided by somebody who knows.
 */
export function offerJoins(files: readonly NamedZones[]): OfferedJoin[] {
  const alike = new Map<string, NamedZones[]>();
  for (const file of files) {
    // Two files of one name could not be told apart afterwards.
    if (files.filter(({ name }) => name === file.name).length > 1) continue;
    const structure = structureOf(file.zones);
    alike.set(structure, [...(alike.get(structure) ?? []), file]);
  }
  const offers: OfferedJoin[] = [];
  for (const group of alike.values()) {
    if (group.length < 2) continue;
    const byRest = new Map<string, { file: string; position: string; rest: string }[]>();
    for (const { name } of group) {
      const position = guessPosition(name);
      if (!position) continue;
      const rest = without(name, position.word);
      byRest.set(rest.toLowerCase(), [
        ...(byRest.get(rest.toLowerCase()) ?? []),
        { file: name, position: position.id, rest },
      ]);
    }
    const told = new Set<string>();
    for (const list of byRest.values()) {
      if (list.length < 2 || new Set(list.map(({ position }) => position)).size < list.length) continue;
      list.sort((a, b) => byNearness(a.position, b.position));
      for (const { file } of list) told.add(file);
      const names = list.map(({ position }) => positionName(position).toLowerCase());
      offers.push({
        name: list[0].rest,
        files: list.map(({ file, position }) => ({ file, position })),
        isSure: true,
        reason: `the same keys, layers and takes in ${list.length} files, whose names differ in ${names.slice(0, -1).join(', ')} and ${names[names.length - 1]}`,
      });
    }
    offers.push(
      ...differingInOneWord(
        group.filter(({ name, zones }) => !told.has(name) && zones.length >= FEWEST_ZONES),
      ),
    );
  }
  return offers;
}

/** Keys, roots, velocities, layers and takes of all zones, in words that two positions of one instrument share. */
function structureOf(zones: readonly FoundZone[], withLevels = false): string {
  return zones
    .map(({ zone, switchKey }) =>
      [
        `${zone.role} ${zone.keyLow} ${zone.keyHigh} ${zone.rootKey} ${zone.velocityLow} ${zone.velocityHigh}`,
        `${zone.take} ${zone.takes} ${zone.interval ?? ''} ${switchKey ?? ''} ${JSON.stringify(zone.fades)}`,
        withLevels ? zone.gainDb : '',
      ].join(' '),
    )
    .sort()
    .join('\n');
}

/** A name without one of its words, and without what held it on. */
function without(name: string, word: string): string {
  // Words as `wordsOf` tells them, with what stands between them.
  const parts = name.split(/(?<=\p{Ll})(?=\p{Lu})|(?<=\p{L})(?=\P{L})|(?<=\P{L})(?=\p{L})/u);
  const at = parts.findIndex((part) => part.toLowerCase() === word);
  if (at < 0) return name;
  const edge = /^[\s_.,()[\]-]+|[\s_.,()[\]-]+$/g;
  const [before, after] = [parts.slice(0, at).join(''), parts.slice(at + 1).join('')].map((part) =>
    part.replace(edge, ''),
  );
  return [before, after].filter(Boolean).join(' ') || name;
}

const wordsIn = (name: string) => name.split(/[\s_.,()[\]-]+/).filter(Boolean);

/** Files whose names have the same words but for one place, as one unsure offer. */
function differingInOneWord(group: readonly NamedZones[]): OfferedJoin[] {
  if (group.length < 2 || group.length > MOST_FILES) return [];
  const words = group.map(({ name }) => wordsIn(name));
  const count = words[0].length;
  if (count < 2 || words.some((list) => list.length !== count)) return [];
  const differing = words[0].flatMap((_, i) =>
    new Set(words.map((list) => list[i].toLowerCase())).size > 1 ? i : [],
  );
  const [place] = differing;
  if (differing.length !== 1 || new Set(words.map((list) => list[place].toLowerCase())).size < group.length)
    return [];
  return [
    {
      name: words[0].filter((_, i) => i !== place).join(' '),
      files: group.map(({ name }, i) => ({ file: name, position: words[i][place].toLowerCase() })),
      isSure: false,
      reason: `${group.length} files are built alike, but nothing says that they are positions`,
    },
  ];
}

/** Name under which a recording of a joined file is known: files may have recordings of one name. */
export const joinedSample = (place: number, gainDb: number, sample: string) => `${place} ${gainDb} ${sample}`;

/** What `joinedSample` put together. */
export function readJoinedSample(name: string): { place: number; gainDb: number; sample: string } {
  const [place, gainDb] = name.split(' ', 2);
  return {
    place: Number(place),
    gainDb: Number(gainDb),
    sample: name.slice(place.length + gainDb.length + 2),
  };
}

/**
 * Zones of several files as zones of one instrument, each file at its position. Where files set levels otherwise, the level of a zone
 * goes into its recording (by `joinedSample`), for positions of a zone share one.
 * @throws FarloError where files are not built alike, so that they would sound twice instead of together
 */
export function joinZones(join: Join, files: readonly NamedZones[]): FoundZone[] {
  const members = join.files.map(({ file }) => {
    const found = files.find(({ name }) => name === file);
    if (!found)
      throw new FarloError(
        'import.join',
        `“${file}” is not among the files, so that it cannot be joined to “${join.name}”.`,
      );
    return found;
  });
  const positions = join.files.map(({ position }) => position);
  const twice = positions.find((one, i) => positions.indexOf(one) !== i);
  if (twice !== undefined)
    throw new FarloError(
      'import.join',
      `Two files of “${join.name}” are to be its position “${twice}”. Give each its own.`,
    );
  const [first, ...others] = members.map(({ zones }) => structureOf(zones));
  const other = others.findIndex((one) => one !== first);
  if (other >= 0)
    throw new FarloError(
      'import.join',
      `“${members[other + 1].name}” has other keys, layers or takes than “${members[0].name}”. Take them in as instruments of their own.`,
    );
  const levels = members.map(({ zones }) => structureOf(zones, true));
  const share = levels.every((one) => one === levels[0]);
  return members.flatMap(({ zones }, place) =>
    zones.map((one): FoundZone => {
      const gainDb = share ? 0 : one.zone.gainDb;
      return {
        ...one,
        instrument: join.name,
        position: positions[place],
        zone: { ...one.zone, gainDb: one.zone.gainDb - gainDb },
        sample: joinedSample(place, gainDb, one.sample),
      };
    }),
  );
}
