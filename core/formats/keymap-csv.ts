import Papa from 'papaparse';
import type { Vocabulary } from '../catalogue/index.ts';
import {
  SOURCE_PARTS,
  TRIGGER_KINDS,
  type Keymap,
  type Source,
  type SourcePart,
  type Trigger,
  type TriggerKind,
} from '../keymap/index.ts';
import { parsePitch, pitchName, type MiddleC } from '../music/index.ts';
import {
  articulationOf,
  EntriesRead,
  MOST_LINES,
  MOST_TEXT,
  quoted,
  type FileRemark,
  type ReadKeymap,
} from './keymap-file.ts';

/**
 * A keymap as a table of text: one line for each trigger and each articulation that sounds. Channels and programs count
 * from 1, keys by name and number.
 */
const COLUMNS = [
  'articulation',
  'what',
  'name',
  'number',
  'low',
  'high',
  'hold',
  'set',
  'level',
  'part',
  'morph',
] as const;
type Row = Record<(typeof COLUMNS)[number], string>;

/** Kinds whose numbers devices show from 1. */
const FROM_ONE: readonly TriggerKind[] = ['program', 'channel'];
/**
 * What a spreadsheet would compute: it gets an apostrophe in front, which is taken away when read. What begins with
 * apostrophes of its own gets one more, so that none of them is taken for ours.
 */
const COMPUTED = "'*(?:[=+@\\t\\r]|-(?![\\d.]+$))";
const TO_WRITE = new RegExp(`^${COMPUTED}`);
const AS_WRITTEN = new RegExp(`^'(?=${COMPUTED})`);
const EMPTY: Row = Object.fromEntries(COLUMNS.map((name) => [name, ''])) as Row;

/** Writes a keymap as comma-separated values (RFC 4180), with a first line of names. */
export function writeKeymapCsv(keymap: Keymap, middleC: MiddleC = 4): string {
  const rows: Row[] = [{ ...EMPTY, what: 'keymap', name: keymap.name }];
  for (const { articulation, triggers, sources, morph } of keymap.entries) {
    const own = { ...EMPTY, articulation };
    if (articulation === keymap.initial) rows.push({ ...own, what: 'begins' });
    if (triggers.length === 0 && sources.length === 0) rows.push({ ...own, what: 'marks only' });
    for (const trigger of triggers) rows.push({ ...own, ...triggerRow(trigger, middleC) });
    if (morph !== undefined) rows.push({ ...own, what: 'morph', number: String(morph) });
    for (const source of sources) rows.push({ ...own, ...sourceRow(source) });
  }
  const safe = rows.map((row) => COLUMNS.map((name) => row[name]));
  return `${Papa.unparse({ fields: [...COLUMNS], data: safe }, { newline: '\r\n', escapeFormulae: TO_WRITE })}\r\n`;
}

function triggerRow(trigger: Trigger, middleC: MiddleC): Partial<Row> {
  const { kind, number, low, high, hold, set } = trigger;
  const ranged = kind === 'velocity' || kind === 'controller';
  const numbered = kind !== 'velocity' && kind !== 'track';
  return {
    what: kind,
    name: kind === 'key' ? pitchName(number, middleC) : '',
    number: numbered ? String(number + (FROM_ONE.includes(kind) ? 1 : 0)) : '',
    low: ranged ? String(low) : '',
    high: ranged ? String(high) : '',
    hold: kind === 'key' ? hold : '',
    set: set === 0 ? '' : String(set),
  };
}

function sourceRow({
  articulation,
  velocityLow,
  velocityHigh,
  levelDb,
  part,
  morphAt,
}: Source): Partial<Row> {
  return {
    what: 'sounds',
    name: articulation,
    low: String(velocityLow),
    high: String(velocityHigh),
    level: String(levelDb),
    part,
    morph: String(morphAt),
  };
}

/**
 * Reads such a table. Lines that make no sense are told and left out; the others are taken. Names of keys without a number
 * are read as the file counts octaves where other lines tell it, else as `middleC` says.
 */
export function readKeymapCsv(text: string, middleC: MiddleC = 4, vocabulary?: Vocabulary): ReadKeymap {
  const remarks: FileRemark[] = [];
  const tell = (line: number, sentence: string, leftOut = true) => remarks.push({ line, sentence, leftOut });
  const empty: ReadKeymap = {
    keymap: { id: '', name: '', initial: '', entries: [] },
    remarks,
    middleC: undefined,
  };
  if (text.length > MOST_TEXT) {
    tell(0, 'The file is too long for a keymap: two million characters are the most.');
    return empty;
  }
  const { data, errors } = Papa.parse<string[]>(text.replace(/^\uFEFF/, ''), {
    delimiter: delimiterOf,
    skipEmptyLines: false,
    preview: MOST_LINES + 2,
  });
  for (const { row, message } of errors)
    if (row !== undefined) tell(row + 1, `The line is damaged: ${message}.`);
  const names = (data[0] ?? []).map((name) => name.trim().toLowerCase());
  if (!names.includes('articulation') || !names.includes('what')) {
    tell(1, 'The first line must name the columns, at least “articulation” and “what”.');
    return empty;
  }
  if (data.length > MOST_LINES + 1) tell(MOST_LINES + 2, `Only the first ${MOST_LINES} lines were read.`);
  const lines = data.slice(1, MOST_LINES + 1).flatMap((cells, i) => {
    if (cells.every((cell) => cell.trim() === '')) return [];
    const row = { ...EMPTY };
    names.forEach((name, c) => {
      if ((COLUMNS as readonly string[]).includes(name))
        row[name as keyof Row] = (cells[c] ?? '').trim().replace(AS_WRITTEN, '');
    });
    return [{ row, line: i + 2 }];
  });
  const counting = countingOf(lines.map(({ row }) => row));
  if (counting !== undefined && counting !== middleC)
    tell(
      0,
      `The file counts octaves from another middle C (C${counting}); its keys were read by that.`,
      false,
    );
  const read = new EntriesRead();
  let name = '';
  let initial = '';
  const seen = new Map<string, number>();
  for (const { row, line } of lines) {
    if (row.what.toLowerCase() === 'keymap') {
      name = row.name.slice(0, 120);
      continue;
    }
    const twin = seen.get(JSON.stringify(row));
    if (twin !== undefined) {
      tell(line, `The line says the same as line ${twin}.`);
      continue;
    }
    seen.set(JSON.stringify(row), line);
    if (row.articulation === '') {
      tell(line, 'The line names no articulation.');
      continue;
    }
    const found = articulationOf(row.articulation, vocabulary);
    if (!found.known) {
      tell(
        line,
        `${quoted(row.articulation)} is no articulation of the house; add the word to the vocabulary to take the line in.`,
      );
      continue;
    }
    if (found.guessed) tell(line, `${quoted(row.articulation)} was taken as ${found.id}.`, false);
    if (counting !== undefined && saysBoth(row) && !agrees(row, counting))
      tell(line, `${quoted(row.name)} is not key ${quoted(row.number)}; the number was taken.`, false);
    const problem = takeLine(read, row, found.id, counting ?? middleC, vocabulary);
    if (problem === 'begins') initial = found.id;
    else if (problem !== undefined) tell(line, problem);
  }
  const entries = read.list();
  return {
    keymap: {
      id: '',
      name,
      initial: entries.some(({ articulation }) => articulation === initial) ? initial : '',
      entries,
    },
    remarks: remarks.sort((a, b) => a.line - b.line),
    middleC: counting,
  };
}

/** What stands between cells: what stands most in the first line, whose names hold nothing of the kind. */
function delimiterOf(text: string): string {
  const [first] = text.split(/[\r\n]/, 1);
  const counted = [',', ';', '\t', '|'].map((one) => ({ one, count: first.split(one).length }));
  return counted.reduce((best, other) => (other.count > best.count ? other : best)).one;
}

/** Takes a line into an entry. @returns why it cannot be, or `begins` for the articulation that holds from the beginning */
function takeLine(
  read: EntriesRead,
  row: Row,
  articulation: string,
  middleC: MiddleC,
  vocabulary: Vocabulary | undefined,
): string | undefined {
  const what = row.what.toLowerCase();
  if (what === 'begins') {
    read.of(articulation);
    return 'begins';
  }
  if (what === 'marks only') {
    read.of(articulation);
    return undefined;
  }
  if (what === 'morph') {
    const controller = whole(row.number, 0, 127);
    if (controller === undefined) return `${quoted(row.number)} is no controller (0 to 127).`;
    read.of(articulation).morph = controller;
    return undefined;
  }
  if (what === 'sounds') {
    const source = sourceIn(row, read, vocabulary);
    if (typeof source === 'string') return source;
    const entry = read.of(articulation);
    entry.sources = [...entry.sources, source];
    return undefined;
  }
  if (!(TRIGGER_KINDS as readonly string[]).includes(what))
    return `${quoted(row.what)} is nothing a keymap knows. Write ${[...TRIGGER_KINDS, 'sounds', 'morph', 'begins'].join(', ')}.`;
  const trigger = triggerIn(what as TriggerKind, row, read, middleC);
  if (typeof trigger === 'string') return trigger;
  const entry = read.of(articulation);
  entry.triggers = [...entry.triggers, trigger];
  return undefined;
}

function triggerIn(kind: TriggerKind, row: Row, read: EntriesRead, middleC: MiddleC): Trigger | string {
  const set = row.set === '' ? 0 : whole(row.set, 0, 15);
  if (set === undefined) return `${quoted(row.set)} is no set of triggers (0 to 15).`;
  const number = numberIn(kind, row, middleC);
  if (typeof number === 'string') return number;
  let [low, high] = [0, 127];
  if (kind === 'velocity' || kind === 'controller') {
    const [from, to] = [whole(row.low, 0, 127), whole(row.high, 0, 127)];
    if (from === undefined || to === undefined || from > to)
      return `The range from ${quoted(row.low)} to ${quoted(row.high)} is none within 0 and 127.`;
    [low, high] = [from, to];
  }
  if (!['', 'latching', 'held'].includes(row.hold))
    return `${quoted(row.hold)}: a key is “latching” or “held”.`;
  return { id: read.nextId(), kind, set, number, low, high, hold: row.hold === 'held' ? 'held' : 'latching' };
}

function numberIn(kind: TriggerKind, row: Row, middleC: MiddleC): number | string {
  if (kind === 'velocity' || kind === 'track') return 0;
  if (kind === 'key') {
    const key = row.number === '' ? parsePitch(row.name, middleC) : whole(row.number, 0, 127);
    return key ?? `${quoted(row.number || row.name)} is no key.`;
  }
  const from = FROM_ONE.includes(kind) ? 1 : 0;
  const highest = { bank: 16383, channel: 15, program: 127, controller: 127 }[kind];
  const number = whole(row.number, from, highest + from);
  return number === undefined
    ? `${quoted(row.number)} is no ${kind} (${from} to ${highest + from}).`
    : number - from;
}

function sourceIn(row: Row, read: EntriesRead, vocabulary: Vocabulary | undefined): Source | string {
  const found = articulationOf(row.name, vocabulary);
  if (!found.known) return `${quoted(row.name)} is no articulation that could sound.`;
  const low = row.low === '' ? 1 : whole(row.low, 1, 127);
  const high = row.high === '' ? 127 : whole(row.high, 1, 127);
  if (low === undefined || high === undefined || low > high)
    return `Velocities from ${quoted(row.low)} to ${quoted(row.high)} are none within 1 and 127.`;
  const level = row.level === '' ? 0 : Number(row.level.replace('−', '-').replace(',', '.'));
  if (!(level >= -60 && level <= 12)) return `${quoted(row.level)} is no level from −60 to 12 dB.`;
  const part = (row.part || 'whole') as SourcePart;
  if (!SOURCE_PARTS.includes(part)) return `${quoted(row.part)}: a part is ${SOURCE_PARTS.join(', ')}.`;
  const morphAt = row.morph === '' ? 0 : whole(row.morph, 0, 127);
  if (morphAt === undefined) return `${quoted(row.morph)} is no place of a morph (0 to 127).`;
  return {
    id: read.nextId(),
    articulation: found.id,
    levelDb: level,
    velocityLow: low,
    velocityHigh: high,
    part,
    morphAt,
  };
}

/** How a file counts octaves: as most of the keys say that stand there both with a name and a number. */
function countingOf(rows: readonly Row[]): MiddleC | undefined {
  const agreeing = (counting: MiddleC) => rows.filter((row) => saysBoth(row) && agrees(row, counting)).length;
  const [four, three] = [agreeing(4), agreeing(3)];
  return four + three === 0 ? undefined : three > four ? 3 : 4;
}

const saysBoth = ({ what, name, number }: Row) =>
  what.toLowerCase() === 'key' && name !== '' && number !== '';
const agrees = ({ name, number }: Row, counting: MiddleC) => parsePitch(name, counting) === Number(number);

function whole(text: string, low: number, high: number): number | undefined {
  const value = Number(text);
  return text !== '' && Number.isInteger(value) && value >= low && value <= high ? value : undefined;
}
