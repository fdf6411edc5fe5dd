import { FarloError, type Place } from '../errors/index.ts';
import { confinePath, folderOf } from './paths.ts';

/** One opcode as written, with where. */
export interface Opcode {
  value: string;
  place: Place;
}

/** A region with everything it inherits; `sample` holds the path inside the folder. */
export interface SfzRegion {
  opcodes: Map<string, Opcode>;
  /** Semitones that `note_offset` and `octave_offset` move all keys by. */
  keyOffset: number;
  place: Place;
}

/** Gives the text of a file inside the folder, or undefined when there is none. */
export type ReadText = (path: string) => string | undefined;

const LEVELS = ['global', 'master', 'group', 'region'] as const;
type Level = (typeof LEVELS)[number];
const DEEPEST_INCLUDE = 16;
const MOST_REGIONS = 200_000;

interface Line {
  text: string;
  place: Place;
}

/**
 * Parses SFZ text into regions with inheritance (global, master, group), `#include`, `#define` and `default_path`.
 * @throws FarloError naming file and line for syntax, include cycles, and paths that leave the folder
 */
export function readSfz(path: string, readText: ReadText): SfzRegion[] {
  const scopes: Record<Level, Map<string, Opcode>> = {
    global: new Map(),
    master: new Map(),
    group: new Map(),
    region: new Map(),
  };
  const control = new Map<string, Opcode>();
  const regions: SfzRegion[] = [];
  let header: Level | 'control' | 'other' = 'other';
  let open: Place | undefined;
  const folder = folderOf(path);

  const closeRegion = () => {
    if (!open) return;
    const opcodes = new Map<string, Opcode>();
    for (const level of LEVELS) for (const [name, opcode] of scopes[level]) opcodes.set(name, opcode);
    const sample = opcodes.get('sample');
    if (sample && !sample.value.startsWith('*')) {
      const prefix = control.get('default_path')?.value ?? '';
      opcodes.set('sample', {
        value: confinePath(folder, prefix + sample.value, sample.place),
        place: sample.place,
      });
    }
    regions.push({ opcodes, keyOffset: keyOffsetOf(control), place: open });
    if (regions.length > MOST_REGIONS)
      throw new FarloError('file.too-large', `More than ${MOST_REGIONS} regions.`, open);
    open = undefined;
  };

  for (const { text, place } of expandLines(path, readText)) {
    for (const token of tokensOf(text, place)) {
      if (token.kind === 'header') {
        closeRegion();
        header = enterHeader(token.name, scopes);
        if (header === 'region') open = place;
      } else if (header === 'control') control.set(token.name, { value: token.value, place });
      else if (header === 'other')
        throw new FarloError(
          'sfz.syntax',
          `“${token.name}=” stands before any header such as <region>.`,
          place,
        );
      else scopes[header].set(token.name, { value: token.value, place });
    }
  }
  closeRegion();
  return regions;
}

/** @throws FarloError when an offset is no whole number */
function keyOffsetOf(control: ReadonlyMap<string, Opcode>): number {
  const whole = (name: string) => {
    const opcode = control.get(name);
    if (opcode && !/^-?\d+$/.test(opcode.value))
      throw new FarloError('sfz.syntax', `“${opcode.value}” is no whole number.`, {
        ...opcode.place,
        opcode: name,
      });
    return Number(opcode?.value ?? 0);
  };
  return whole('note_offset') + 12 * whole('octave_offset');
}

/** Clears what a header ends and returns where opcodes go from here on; unknown headers keep their opcodes to themselves. */
function enterHeader(name: string, scopes: Record<Level, Map<string, Opcode>>): Level | 'control' | 'other' {
  if (name === 'control') return 'control';
  const depth = LEVELS.indexOf(name as Level);
  if (depth < 0) return 'other';
  for (const level of LEVELS.slice(depth)) scopes[level].clear();
  return name as Level;
}

/** Lines with comments removed, includes put in place and defined names replaced. */
function expandLines(path: string, readText: ReadText): Line[] {
  const defines = new Map<string, string>();
  const lines: Line[] = [];
  const visit = (file: string, stack: string[], from: Place) => {
    if (stack.includes(file) || stack.length > DEEPEST_INCLUDE)
      throw new FarloError(
        'sfz.include-cycle',
        `“${file}” includes itself${stack.length > 1 ? ` by way of ${stack.slice(1).join(', ')}` : ''}.`,
        from,
      );
    const text = readText(file);
    if (text === undefined)
      throw new FarloError('sfz.sample-missing', `The file “${file}” is not there.`, from);
    withoutComments(text, file).forEach((raw, i) => {
      const place = { file, line: i + 1 };
      const replaced = replaceDefines(raw, defines);
      const define = /^\s*#define\s+\$(\w+)\s+(\S+)\s*$/.exec(raw);
      const include = /^\s*#include\s+"([^"]+)"\s*$/.exec(replaced);
      if (define) defines.set(define[1], replaceDefines(define[2], defines));
      else if (include) visit(confinePath(folderOf(path), include[1], place), [...stack, file], place);
      else if (replaced.trim().startsWith('#'))
        throw new FarloError(
          'sfz.syntax',
          `“${replaced.trim().slice(0, 60)}” is no directive Farlo knows.`,
          place,
        );
      else if (replaced.trim() !== '') lines.push({ text: replaced, place });
    });
  };
  visit(path, [], { file: path });
  return lines;
}

function withoutComments(text: string, file: string): string[] {
  let open: number | undefined;
  const lines = text.split(/\r\n|\r|\n/).map((line, n) => {
    let kept = '';
    let rest = line;
    while (rest !== '') {
      if (open !== undefined) {
        const end = rest.indexOf('*/');
        if (end < 0) return kept;
        rest = rest.slice(end + 2);
        open = undefined;
      }
      // Two slashes inside a path would be no comment, but a path has one at a time.
      const cut = /\/\/|\/\*/.exec(rest);
      if (!cut) return kept + rest;
      kept += rest.slice(0, cut.index);
      if (cut[0] === '//') return kept;
      rest = rest.slice(cut.index + 2);
      open = n + 1;
    }
    return kept;
  });
  if (open !== undefined)
    throw new FarloError('sfz.syntax', 'A comment that begins with /* here is never closed.', {
      file,
      line: open,
    });
  return lines;
}

function replaceDefines(text: string, defines: ReadonlyMap<string, string>): string {
  if (!text.includes('$')) return text;
  const names = [...defines.keys()].sort((a, b) => b.length - a.length);
  let out = text;
  for (const name of names) out = out.replaceAll(`$${name}`, defines.get(name) ?? '');
  return out;
}

type Token = { kind: 'header'; name: string } | { kind: 'opcode'; name: string; value: string };

/** Headers and opcodes of one line; a value runs to the next ` name=`, header or line end, so paths may hold spaces. */
function tokensOf(text: string, place: Place): Token[] {
  const tokens: Token[] = [];
  let rest = text.trim();
  while (rest !== '') {
    const header = /^<(\w+)>\s*/.exec(rest);
    if (header) {
      tokens.push({ kind: 'header', name: header[1] });
      rest = rest.slice(header[0].length);
      continue;
    }
    const opcode = /^([A-Za-z0-9_$]+)=/.exec(rest);
    if (!opcode)
      throw new FarloError(
        'sfz.syntax',
        `“${rest.slice(0, 40)}” is neither a header nor opcode=value.`,
        place,
      );
    const after = rest.slice(opcode[0].length);
    const end = /\s+[A-Za-z0-9_]+=|\s*<\w+>/.exec(after);
    const value = (end ? after.slice(0, end.index) : after).trim();
    tokens.push({ kind: 'opcode', name: opcode[1].toLowerCase(), value });
    rest = (end ? after.slice(end.index) : '').trim();
  }
  return tokens;
}
