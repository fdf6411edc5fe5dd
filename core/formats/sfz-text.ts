import { FarloError, type Place } from '../errors/index.ts';
import { confinePath, folderOf } from './paths.ts';
import { quoted } from './quoted.ts';

/** Gives the text of a file inside the folder, or undefined when there is none. */
export type ReadText = (path: string) => string | undefined;

/** One line of a file as it counts: without comments, names replaced. */
export interface Line {
  text: string;
  place: Place;
}

const DEEPEST_INCLUDE = 16;
/** Bounds of what text may become: what is longer is no instrument, and would fill the memory. */
const LONGEST_NAME = 100;
const LONGEST_VALUE = 1000;
const LONGEST_LINE = 65_536;
const MOST_CHARACTERS = 64 * 2 ** 20;
const MOST_INCLUDES = 10_000;

/**
 * Lines with comments removed, includes put in place and defined names replaced.
 * @throws FarloError naming file and line for what is no text, includes in a circle or too deep, and text that grows without end
 */
export function expandLines(path: string, readText: ReadText): Line[] {
  const defines = new Defines();
  const lines: Line[] = [];
  const stack: string[] = [];
  let characters = 0;
  let includes = 0;
  const take = (text: string, place: Place) => {
    characters += text.length;
    if (characters > MOST_CHARACTERS)
      throw new FarloError(
        'file.too-large',
        `With all it includes and defines, the text grows beyond ${MOST_CHARACTERS / 2 ** 20} million characters here.`,
        place,
      );
    lines.push({ text, place });
  };
  const visit = (file: string, from: Place) => {
    if (stack.includes(file)) {
      const way = stack.slice(stack.indexOf(file) + 1);
      throw new FarloError(
        'sfz.include-cycle',
        `“${file}” includes itself${way.length > 0 ? ` by way of ${way.join(', ')}` : ''}.`,
        from,
      );
    }
    if (stack.length > DEEPEST_INCLUDE)
      throw new FarloError(
        'sfz.include-depth',
        `Files include each other more than ${DEEPEST_INCLUDE} deep; “${file}” is not read.`,
        from,
      );
    if (++includes > MOST_INCLUDES)
      throw new FarloError('file.too-large', `More than ${MOST_INCLUDES} files are included.`, from);
    const text = readText(file);
    if (text === undefined)
      throw new FarloError('sfz.sample-missing', `The file “${file}” is not there.`, from);
    mustBeText(text, file);
    stack.push(file);
    withoutComments(text, file).forEach((raw, i) => {
      const place = { file, line: i + 1 };
      const define = /^\s*#define\s+\$(\w+)\s+(\S+)\s*$/.exec(raw);
      if (define) {
        defines.set(define[1], define[2], place);
        return;
      }
      const replaced = defines.replace(raw, LONGEST_LINE, place);
      const include = /^\s*#include\s+"([^"]+)"\s*$/.exec(replaced);
      if (include) visit(confinePath(folderOf(path), include[1], place), place);
      else if (/^\s*#/.test(replaced))
        throw new FarloError('sfz.syntax', `“${quoted(replaced)}” is no directive Farlo knows.`, place);
      else if (/\S/.test(replaced)) take(replaced, place);
    });
    stack.pop();
  };
  visit(path, { file: path });
  return lines;
}

/** Names that stand for text. */
class Defines {
  private readonly values = new Map<string, string>();
  private longest = 0;

  set(name: string, text: string, place: Place): void {
    if (name.length > LONGEST_NAME)
      throw new FarloError(
        'sfz.syntax',
        `“$${quoted(name, 40)}” is longer than ${LONGEST_NAME} characters.`,
        place,
      );
    this.values.set(name, this.replace(text, LONGEST_VALUE, place));
    this.longest = Math.max(this.longest, name.length);
  }

  /** Puts values in the place of names; the longest that fits counts. @throws FarloError when that is longer than `most` */
  replace(text: string, most: number, place: Place): string {
    if (!text.includes('$') || this.values.size === 0) return text;
    let length = text.length;
    return text.replace(/\$(\w+)/g, (written, word: string) => {
      for (let end = Math.min(word.length, this.longest); end > 0; end--) {
        const value = this.values.get(word.slice(0, end));
        if (value === undefined) continue;
        length += value.length - end - 1;
        if (length > most)
          throw new FarloError(
            'file.too-large',
            `What “$${quoted(word, 40)}” stands for makes this longer than ${most} characters.`,
            place,
          );
        return value + word.slice(end);
      }
      return written;
    });
  }
}

/** @throws FarloError when a file is no text */
function mustBeText(text: string, file: string): void {
  const at = text.indexOf('\0');
  if (at >= 0)
    throw new FarloError('file.not-this-format', 'This is no text: it holds bytes of something else.', {
      file,
      line: text.slice(0, at).split('\n').length,
    });
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

/** A header, or an opcode with its value. */
export type Token = { kind: 'header'; name: string } | { kind: 'opcode'; name: string; value: string };

/** What begins a token: an opcode behind a blank or a header, or a header. Looked for from left to right once, however long the line. */
const BEGINS = /(?<=^|\s|<\w+>)([A-Za-z0-9_$]+)=|<(\w+)>/g;

/**
 * Headers and opcodes of one line; a value runs to the next ` name=`, header or line end, so paths may hold blanks.
 * @throws FarloError for what is neither
 */
export function tokensOf({ text, place }: Line): Token[] {
  const tokens: Token[] = [];
  const stray = (from: number, to: number) => {
    const rest = text.slice(from, to).trim();
    if (rest !== '')
      throw new FarloError(
        'sfz.syntax',
        `“${quoted(rest, 40)}” is neither a header nor opcode=value.`,
        place,
      );
  };
  let opcode: { name: string; from: number } | undefined;
  let behind = 0;
  const close = (to: number) => {
    if (opcode)
      tokens.push({
        kind: 'opcode',
        name: opcode.name.toLowerCase(),
        value: text.slice(opcode.from, to).trim(),
      });
    else stray(behind, to);
    opcode = undefined;
  };
  for (const match of text.matchAll(BEGINS)) {
    close(match.index);
    behind = match.index + match[0].length;
    if (match[2] !== undefined) tokens.push({ kind: 'header', name: match[2] });
    else opcode = { name: match[1], from: behind };
  }
  close(text.length);
  return tokens;
}
