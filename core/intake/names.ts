import { guessArticulation, guessPosition } from '../catalogue/index.ts';
import type { FoundWord, FoundZone, SampleFacts } from '../formats/index.ts';
import { parsePitch, type MiddleC } from '../music/index.ts';

/** What a part of a file name can stand for. */
export const NAME_PARTS = [
  'instrument',
  'articulation',
  'note',
  'layer',
  'take',
  'position',
  'anything',
] as const;
export type NamePart = (typeof NAME_PARTS)[number];

/** What one file becomes by a pattern, or why it does not. */
export interface NamedFile {
  path: string;
  root: number | undefined;
  parts: Partial<Record<NamePart, string>>;
  /** A sentence, when the file cannot be used. */
  problem?: string;
}

const SEPARATORS = '_ .-';
const LONGEST_PATTERN = 200;

interface Token {
  part: NamePart | undefined;
  text: string;
}

/** Reads a pattern such as `{instrument}_{articulation}_{note}`. @returns a sentence when it makes no sense */
export function readPattern(pattern: string): Token[] | string {
  if (pattern.length > LONGEST_PATTERN) return `A pattern has at most ${LONGEST_PATTERN} characters.`;
  const tokens: Token[] = [];
  for (const piece of pattern.split(/(\{[^{}]*\})/)) {
    if (piece === '') continue;
    if (!piece.startsWith('{')) {
      tokens.push({ part: undefined, text: piece });
      continue;
    }
    const part = piece.slice(1, -1).trim() as NamePart;
    if (!NAME_PARTS.includes(part))
      return `“${part}” is no part of a name. Use ${NAME_PARTS.map((p) => `{${p}}`).join(', ')}.`;
    if (tokens.at(-1)?.part)
      return `Between {${tokens.at(-1)?.part}} and {${part}} there must be a character.`;
    if (part !== 'anything' && tokens.some((token) => token.part === part))
      return `{${part}} stands there twice.`;
    tokens.push({ part, text: '' });
  }
  if (!tokens.some((token) => token.part === 'note')) return 'The pattern needs a {note}.';
  return tokens;
}

const nameOf = (path: string) => path.slice(path.lastIndexOf('/') + 1).replace(/\.\w+$/, '');

/**
 * What each file becomes. Parts are as short as they can be; the last one takes the rest.
 * @param middleC octave number of key 60 in the file names
 */
export function nameFiles(
  paths: readonly string[],
  pattern: readonly Token[],
  middleC: MiddleC,
): NamedFile[] {
  const source = pattern
    .map((token) => (token.part ? '(.+?)' : token.text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&')))
    .join('');
  const expression = new RegExp(`^${source}$`, 'i');
  const parts = pattern.flatMap((token) => token.part ?? []);
  return paths.map((path) => {
    const match = expression.exec(nameOf(path));
    if (!match) return { path, root: undefined, parts: {}, problem: 'the pattern does not fit its name' };
    const found: NamedFile['parts'] = {};
    parts.forEach((part, i) => (found[part] = match[i + 1]));
    const root = noteOf(found.note ?? '', middleC);
    return {
      path,
      root,
      parts: found,
      ...(root === undefined ? { problem: `“${found.note}” is no note` } : {}),
    };
  });
}

/** A note by name (`F#3`, `fs3`) or key number. */
function noteOf(text: string, middleC: MiddleC): number | undefined {
  if (/^\d{1,3}$/.test(text)) return Number(text) <= 127 ? Number(text) : undefined;
  return parsePitch(text.replace(/^([a-g])s(-?\d)/i, '$1#$2'), middleC);
}

/** A pattern that fits most of the names, by what their parts look like; undefined when no part looks like a note. */
export function suggestPattern(paths: readonly string[]): string | undefined {
  const rows = paths.map((path) => splitName(nameOf(path)));
  const shapes = new Map<string, string[][]>();
  for (const row of rows) {
    const shape = row.filter((_, i) => i % 2 === 1).join('');
    shapes.set(shape, [...(shapes.get(shape) ?? []), row]);
  }
  const best = [...shapes.values()].sort((a, b) => b.length - a.length)[0];
  if (!best) return undefined;
  const columns = Math.ceil(best[0].length / 2);
  const values = Array.from({ length: columns }, (_, c) => best.map((row) => row[2 * c]));
  const share = (list: readonly string[], test: (text: string) => boolean) =>
    list.filter(test).length / list.length;
  const taken = new Set<NamePart>();
  const guesses = values.map((list): NamePart => {
    const claim = (part: NamePart, fits: boolean) => fits && !taken.has(part) && taken.add(part) && part;
    const numeric = share(list, (text) => /^\d{1,3}$/.test(text)) > 0.9;
    return (
      claim(
        'note',
        share(list, (text) => parsePitch(text.replace(/^([a-g])s(-?\d)/i, '$1#$2')) !== undefined) > 0.9,
      ) ||
      claim('take', share(list, (text) => /^(rr|t|take|rt|var|alt)\d+$/i.test(text)) > 0.9) ||
      claim(
        'layer',
        share(list, (text) =>
          /^(p{1,3}|f{1,3}|m[pf]|soft|med|medium|loud|hard|v\d+|vel\d+|l\d+)$/i.test(text),
        ) > 0.9,
      ) ||
      claim('position', share(list, (text) => guessPosition(text) !== undefined) > 0.9) ||
      claim('articulation', share(list, (text) => guessArticulation(text) !== undefined) > 0.5) ||
      (numeric
        ? claim('take', new Set(list).size <= 12 && share(list, (text) => Number(text) <= 16) > 0.95)
        : false) ||
      (numeric ? claim('note', true) : false) ||
      'anything'
    );
  });
  if (!guesses.includes('note')) return undefined;
  const free = guesses.indexOf('anything');
  if (free >= 0 && !taken.has('instrument')) guesses[free] = 'instrument';
  const pattern = guesses.map((part, c) => `{${part}}${best[0][2 * c + 1] ?? ''}`).join('');
  // A name of several words is one name, where another sign than a blank ends it.
  return pattern.replace(/\{instrument\}(?: +\{anything\})+(?=[^ {}])/, '{instrument}');
}

/** A name as parts and the separators between them, alternating. */
function splitName(name: string): string[] {
  return name.split(new RegExp(`([${SEPARATORS}]+)`));
}

const SPREAD_AT_ENDS = 3;

/**
 * Zones of named files: roots of one instrument, technique, layer, take and position share the keys between them.
 * @param otherwise name of the instrument where the pattern has none
 */
export function foundInNames(
  files: readonly NamedFile[],
  facts: ReadonlyMap<string, SampleFacts>,
  otherwise: string,
): FoundZone[] {
  const groups = new Map<string, NamedFile[]>();
  for (const file of files) {
    if (file.problem !== undefined || !facts.has(file.path)) continue;
    const { instrument, articulation, layer, take, position } = file.parts;
    const key = JSON.stringify([instrument, articulation, layer, take, position]);
    const group = groups.get(key);
    if (group) group.push(file);
    else groups.set(key, [file]);
  }
  return [...groups.values()].flatMap((group) => {
    const roots = [...new Set(group.map((file) => file.root ?? 60))].sort((a, b) => a - b);
    return group.map((file): FoundZone => {
      const root = file.root ?? 60;
      const at = roots.indexOf(root);
      const below = at > 0 ? Math.floor((roots[at - 1] + root) / 2) + 1 : root - SPREAD_AT_ENDS;
      const above = at + 1 < roots.length ? Math.floor((root + roots[at + 1]) / 2) : root + SPREAD_AT_ENDS;
      const loop = facts.get(file.path)?.loops[0];
      return {
        sample: file.path,
        rate: facts.get(file.path)?.rate ?? 48_000,
        instrument: file.parts.instrument ?? otherwise,
        words: wordsIn(file),
        zone: {
          role: 'attack',
          keyLow: Math.max(0, below),
          keyHigh: Math.min(127, above),
          rootKey: root,
          velocityLow: 1,
          velocityHigh: 127,
          fades: [],
          modulations: [],
          take: 0,
          takes: 1,
          tuneCents: 0,
          gainDb: 0,
          velocityTrack: 1,
          startFrame: 0,
          oneShot: !loop && isShort(file),
          envelope: { attackSeconds: 0, holdSeconds: 0, decaySeconds: 0, sustain: 1, releaseSeconds: 0.15 },
          ...(loop ? { loop } : {}),
        },
      };
    });
  });
}

function isShort(file: NamedFile): boolean {
  const { articulation } = file.parts;
  const group = articulation === undefined ? undefined : guessArticulation(articulation)?.term.group;
  return group === 'short' || group === 'pattern' || group === 'dynamic';
}

function wordsIn({ parts, path }: NamedFile): FoundWord[] {
  const words: FoundWord[] = [];
  for (const part of ['articulation', 'layer', 'take', 'position'] as const) {
    const text = parts[part];
    if (text !== undefined) words.push({ kind: 'name part', text });
  }
  for (const folder of path.split('/').slice(0, -1).reverse()) words.push({ kind: 'folder', text: folder });
  return words;
}
