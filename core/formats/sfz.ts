import { FarloError, type Place } from '../errors/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { confinePath, folderOf } from './paths.ts';
import { quoted } from './quoted.ts';
import { expandLines, tokensOf, type ReadText } from './sfz-text.ts';

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

/** Something of a file that changes nothing here. */
export interface Passed {
  opcode: string;
  reason: string;
  place: Place;
}

/** What an SFZ file says. */
export interface SfzFile {
  regions: SfzRegion[];
  /** Where controllers stand before anything moves them (`set_cc`, `set_hdcc`), 0 … 127 by number; those of the house are passed over. */
  rests: Map<number, number>;
  /** Headers and names that are passed over. */
  passed: Passed[];
}

const LEVELS = ['global', 'master', 'group', 'region'] as const;
type Level = (typeof LEVELS)[number];
const MOST_REGIONS = 200_000;
const OF_THE_HOUSE = new Set<number>(Object.values(CONTROLLER));
const SET_CONTROLLER = /^set_(hd)?cc(\d+)$/;

/** Where opcodes go: to a level, to the settings of the file, or nowhere. */
type Header = Level | 'control' | 'passed' | 'none';

/**
 * Parses SFZ text into regions with inheritance (global, master, group), `#include`, `#define` and `default_path`.
 * @throws FarloError naming file and line for syntax, include cycles, and paths that leave the folder
 */
export function readSfz(path: string, readText: ReadText): SfzFile {
  const reader = new Reader(folderOf(path));
  for (const line of expandLines(path, readText))
    for (const token of tokensOf(line))
      if (token.kind === 'header') reader.enter(token.name, line.place);
      else reader.take(token.name, { value: token.value, place: line.place });
  return reader.finish();
}

/** Takes headers and opcodes as they come. */
class Reader {
  private readonly scopes: Record<Level, Map<string, Opcode>> = {
    global: new Map(),
    master: new Map(),
    group: new Map(),
    region: new Map(),
  };
  private readonly control = new Map<string, Opcode>();
  private readonly file: SfzFile = { regions: [], rests: new Map(), passed: [] };
  private header: Header = 'none';
  private open: Place | undefined;
  private readonly told = new Set<string>();

  constructor(private readonly folder: string) {}

  enter(name: string, place: Place): void {
    this.closeRegion();
    const depth = LEVELS.indexOf(name as Level);
    if (name === 'control') this.header = 'control';
    else if (depth < 0) {
      this.header = 'passed';
      this.pass(`<${name}>`, 'what stands under this header is passed over', place);
    } else {
      for (const level of LEVELS.slice(depth)) this.scopes[level].clear();
      this.header = name as Level;
      if (name === 'region') this.open = place;
    }
  }

  take(name: string, opcode: Opcode): void {
    const { header } = this;
    const unknown = /\$\w+/.exec(opcode.value);
    if (unknown && name !== 'sample')
      this.pass(quoted(unknown[0], 40), 'this name stands for nothing: it was never defined', opcode.place);
    if (header === 'passed') return;
    if (header === 'none')
      throw new FarloError(
        'sfz.syntax',
        `“${quoted(name, 40)}=” stands before any header such as <region>.`,
        opcode.place,
      );
    if (header !== 'control') this.scopes[header].set(name, opcode);
    else if (!this.setsController(name, opcode)) this.control.set(name, opcode);
  }

  finish(): SfzFile {
    this.closeRegion();
    return this.file;
  }

  private pass(opcode: string, reason: string, place: Place): void {
    if (this.told.has(opcode)) return;
    this.told.add(opcode);
    this.file.passed.push({ opcode, reason, place });
  }

  /** @throws FarloError when the value is no number */
  private setsController(name: string, { value, place }: Opcode): boolean {
    const match = SET_CONTROLLER.exec(name);
    if (!match) return false;
    const [written, controller] = [Number(value), Number(match[2])];
    if (value === '' || !Number.isFinite(written))
      throw new FarloError('sfz.syntax', `“${quoted(value, 40)}” is no number.`, { ...place, opcode: name });
    if (OF_THE_HOUSE.has(controller))
      this.pass(name, 'the house has a meaning for this controller, and a place where it rests', place);
    else if (controller > 127) this.pass(name, 'controllers beyond 127 have no place to rest', place);
    else this.file.rests.set(controller, Math.min(127, Math.max(0, match[1] ? written * 127 : written)));
    return true;
  }

  private closeRegion(): void {
    const { open, scopes, file, control, folder } = this;
    if (!open) return;
    this.open = undefined;
    const opcodes = new Map<string, Opcode>();
    for (const level of LEVELS) {
      const own = scopes[level];
      // A key says lowest, highest and root at once: what outer levels say of them is over.
      if (own.has('key')) for (const name of ['lokey', 'hikey', 'pitch_keycenter']) opcodes.delete(name);
      for (const [name, opcode] of own) opcodes.set(name, opcode);
    }
    const sample = opcodes.get('sample');
    if (sample && !sample.value.startsWith('*')) {
      const prefix = control.get('default_path')?.value ?? '';
      opcodes.set('sample', {
        value: confinePath(folder, prefix + sample.value, sample.place),
        place: sample.place,
      });
    }
    file.regions.push({ opcodes, keyOffset: keyOffsetOf(control), place: open });
    if (file.regions.length > MOST_REGIONS)
      throw new FarloError('file.too-large', `More than ${MOST_REGIONS} regions.`, open);
  }
}

/** @throws FarloError when an offset is no whole number */
function keyOffsetOf(control: ReadonlyMap<string, Opcode>): number {
  const whole = (name: string) => {
    const opcode = control.get(name);
    if (opcode && !/^-?\d+$/.test(opcode.value))
      throw new FarloError('sfz.syntax', `“${quoted(opcode.value, 40)}” is no whole number.`, {
        ...opcode.place,
        opcode: name,
      });
    return Number(opcode?.value ?? 0);
  };
  return whole('note_offset') + 12 * whole('octave_offset');
}
