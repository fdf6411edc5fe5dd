import {
  guessArticulation,
  VOCABULARY,
  type Articulation,
  type Fade,
  type Modulation,
  type Zone,
  type ZoneRole,
} from '../catalogue/index.ts';
import { FarloError, type Place } from '../errors/index.ts';
import { parsePitch } from '../music/index.ts';
import type { Opcode, SfzRegion } from './sfz.ts';

/** What must be known of a recording before it can be mapped. */
export interface SampleFacts {
  frames: number;
  loops: { start: number; end: number }[];
}

/** An opcode, or a value of one, that changes nothing in Farlo; told to the user. */
export interface Unsupported {
  opcode: string;
  reason: string;
  count: number;
  place: Place;
}

/** An instrument read from SFZ; zones name sample paths where the catalogue has sample ids. */
export interface SfzInstrument {
  articulations: Articulation[];
  positions: { id: string; name: string }[];
  unsupported: Unsupported[];
}

/** Words in a label that name a microphone position. */
const POSITION_WORDS = [
  'spot',
  'close',
  'mid',
  'tree',
  'outriggers',
  'far',
  'ambient',
  'balcony',
  'stereo',
  'mix',
];

/** Opcodes that carry no sound, or whose meaning is taken up elsewhere. */
const READ = new Set(
  (
    'sample key lokey hikey pitch_keycenter lovel hivel tune pitch transpose volume gain amp_veltrack offset end ' +
    'loop_mode loopmode loop_start loop_end loopstart loopend trigger sw_lokey sw_hikey sw_last sw_label sw_default ' +
    'sw_previous seq_length seq_position lorand hirand ampeg_attack ampeg_hold ampeg_decay ampeg_sustain ampeg_release ' +
    'cutoff resonance fil_type group_label master_label region_label global_label'
  ).split(' '),
);
const FADE = /^xf(in|out)_(lo|hi)cc(\d+)$/;
const MODULATION = /^(gain|volume|cutoff|tune|pitch)_(?:on)?cc(\d+)$/;

class Reader {
  readonly unsupported = new Map<string, Unsupported>();

  note(opcode: string, reason: string, place: Place): void {
    const known = this.unsupported.get(opcode + reason);
    if (known) known.count++;
    else this.unsupported.set(opcode + reason, { opcode, reason, count: 1, place });
  }

  number(
    region: SfzRegion,
    names: string | string[],
    otherwise: number,
    low = -Infinity,
    high = Infinity,
  ): number {
    const opcode = first(region, names);
    if (!opcode) return otherwise;
    const value = Number(opcode.value);
    if (opcode.value === '' || !Number.isFinite(value))
      throw new FarloError('sfz.syntax', `“${opcode.value}” is no number.`, {
        ...opcode.place,
        opcode: String(names),
      });
    return Math.min(high, Math.max(low, value));
  }

  key(region: SfzRegion, name: string, otherwise: number): number {
    const opcode = region.opcodes.get(name);
    if (!opcode) return otherwise;
    if (/^-?\d+$/.test(opcode.value)) return Math.min(127, Math.max(-1, Number(opcode.value)));
    const key = parsePitch(opcode.value, 4);
    if (key === undefined)
      throw new FarloError('sfz.syntax', `“${opcode.value}” is no key.`, { ...opcode.place, opcode: name });
    return key;
  }
}

function first(region: SfzRegion, names: string | string[]): Opcode | undefined {
  if (typeof names === 'string') return region.opcodes.get(names);
  for (const name of names) {
    const opcode = region.opcodes.get(name);
    if (opcode) return opcode;
  }
  return undefined;
}

/**
 * Maps regions onto articulations, zones and positions. Labels decide: `sw_label` or `group_label` the
 * articulation, `master_label` the microphone position; regions alike in all but position become one zone.
 * @param facts of each sample path; every path named by a region must be there
 * @throws FarloError with the line when a value makes no sense or nothing can be played
 */
export function instrumentFromSfz(
  regions: readonly SfzRegion[],
  facts: ReadonlyMap<string, SampleFacts>,
): SfzInstrument {
  const reader = new Reader();
  const positions = new Map<string, string>();
  const articulations = new Map<string, { articulation: Articulation; byKey: Map<string, Zone> }>();
  for (const region of regions) {
    noteUnknown(region, reader);
    const sample = region.opcodes.get('sample');
    if (!sample) {
      reader.note('region', 'a region without a sample is left out', region.place);
      continue;
    }
    const known = facts.get(sample.value);
    if (!known) {
      reader.note('sample', `“${sample.value}” makes its sound by itself and is left out`, sample.place);
      continue;
    }
    const zone = zoneOf(region, known, reader);
    if (!zone) continue;
    const position = positionOf(region);
    positions.set(position.id, position.name);
    const target = articulationOf(region, zone, articulations, reader);
    const key = JSON.stringify({ ...zone, samples: 0, loop: 0, startFrame: 0 });
    const twin = target.byKey.get(key);
    if (twin && !(position.id in twin.samples)) twin.samples[position.id] = { sample: sample.value };
    else {
      zone.samples[position.id] = { sample: sample.value };
      target.byKey.set(twin ? `${key}#${target.articulation.zones.length}` : key, zone);
      target.articulation.zones.push(zone);
    }
  }
  if (articulations.size === 0)
    throw new FarloError(
      'sfz.nothing-to-play',
      'No region of this instrument can be played.',
      regions[0]?.place ?? {},
    );
  const list = [...articulations.values()].map(({ articulation }) => ({
    ...articulation,
    zones: mergeTransitions(withTakeNumbers(articulation.zones)),
  }));
  const order = new Map(VOCABULARY.map((term, i) => [term.id, i]));
  list.sort((a, b) => (order.get(a.id) ?? 99) - (order.get(b.id) ?? 99));
  return {
    articulations: list,
    positions: [...positions].map(([id, name]) => ({ id, name })),
    unsupported: [...reader.unsupported.values()],
  };
}

function noteUnknown(region: SfzRegion, reader: Reader): void {
  for (const [name, opcode] of region.opcodes)
    if (!READ.has(name) && !FADE.test(name) && !MODULATION.test(name))
      reader.note(name, 'not supported; it changes nothing here', opcode.place);
  const filter = region.opcodes.get('fil_type');
  if (filter && !/^lpf_[12]p$/.test(filter.value))
    reader.note('fil_type', `“${filter.value}” is played as a low-pass`, filter.place);
}

/** Role, keys and everything else of one region; undefined when it cannot be played (told to the user). */
function zoneOf(region: SfzRegion, facts: SampleFacts, reader: Reader): Zone | undefined {
  const key = reader.key(region, 'key', -2);
  const keyLow = reader.key(region, 'lokey', key >= 0 ? key : 0);
  const keyHigh = reader.key(region, 'hikey', key >= 0 ? key : 127);
  const transpose = reader.number(region, 'transpose', 0, -127, 127);
  const role = roleOf(region, reader);
  if (!role || keyHigh < keyLow || keyHigh < 0) {
    if (role)
      reader.note('hikey', 'a region whose highest key lies below its lowest is left out', region.place);
    return undefined;
  }
  const mode =
    first(region, ['loop_mode', 'loopmode'])?.value ??
    (facts.loops.length > 0 ? 'loop_continuous' : 'no_loop');
  const looped = mode === 'loop_continuous' || mode === 'loop_sustain';
  const last = reader.number(region, 'end', facts.frames - 1);
  const loopStart = reader.number(region, ['loop_start', 'loopstart'], facts.loops[0]?.start ?? 0, 0);
  const loopEnd = reader.number(region, ['loop_end', 'loopend'], (facts.loops[0]?.end ?? last + 1) - 1) + 1;
  const zone: Zone = {
    role,
    keyLow: Math.max(0, keyLow),
    keyHigh,
    rootKey: reader.key(region, 'pitch_keycenter', key >= 0 ? key : 60) - transpose,
    velocityLow: reader.number(region, 'lovel', 1, 0, 127),
    velocityHigh: reader.number(region, 'hivel', 127, 0, 127),
    fades: fadesOf(region, reader),
    modulations: modulationsOf(region, reader),
    take: reader.number(region, 'seq_position', 1, 1, 1000) - 1,
    takes: reader.number(region, 'seq_length', 1, 1, 1000),
    tuneCents: reader.number(region, ['tune', 'pitch'], 0, -9600, 9600),
    gainDb: reader.number(region, ['volume', 'gain'], 0, -144, 48),
    velocityTrack: reader.number(region, 'amp_veltrack', 100, 0, 100) / 100,
    startFrame: Math.min(facts.frames - 1, reader.number(region, 'offset', 0, 0)),
    oneShot: mode === 'one_shot' || role !== 'attack',
    envelope: {
      attackSeconds: reader.number(region, 'ampeg_attack', 0, 0, 100),
      holdSeconds: reader.number(region, 'ampeg_hold', 0, 0, 100),
      decaySeconds: reader.number(region, 'ampeg_decay', 0, 0, 100),
      sustain: reader.number(region, 'ampeg_sustain', 100, 0, 100) / 100,
      releaseSeconds: reader.number(region, 'ampeg_release', 0.02, 0, 100),
    },
    samples: {},
  };
  if (looped && loopEnd > loopStart && loopEnd <= facts.frames)
    zone.loop = { start: loopStart, end: loopEnd };
  else if (looped)
    reader.note('loop_end', 'a loop that reaches outside its sample is left out', region.place);
  if (role === 'transition') zone.interval = keyLow - reader.key(region, 'sw_previous', keyLow);
  const random = region.opcodes.get('lorand');
  if (random) zone.take = Math.round(reader.number(region, 'lorand', 0, 0, 1) * 1e6);
  if (region.opcodes.has('cutoff')) zone.cutoffHz = reader.number(region, 'cutoff', 20000, 20, 24000);
  if (region.opcodes.has('resonance')) zone.resonanceDb = reader.number(region, 'resonance', 0, 0, 40);
  if (random) zone.takes = -1;
  return zone;
}

function roleOf(region: SfzRegion, reader: Reader): ZoneRole | undefined {
  const trigger = region.opcodes.get('trigger');
  switch (trigger?.value ?? 'attack') {
    case 'attack':
    case 'first':
      return 'attack';
    case 'release':
    case 'release_key':
      return 'release';
    case 'legato':
      if (region.opcodes.has('sw_previous')) return 'transition';
      reader.note(
        'trigger',
        '“legato” without sw_previous does not say which move was recorded; the region is left out',
        region.place,
      );
      return undefined;
    default:
      reader.note('trigger', `“${trigger?.value}” is not supported; the region is left out`, region.place);
      return undefined;
  }
}

function fadesOf(region: SfzRegion, reader: Reader): Fade[] {
  const fades = new Map<number, Fade>();
  for (const name of region.opcodes.keys()) {
    const match = FADE.exec(name);
    if (!match) continue;
    const controller = Number(match[3]);
    const fade = fades.get(controller) ?? { controller, inLow: 0, inHigh: 0, outLow: 127, outHigh: 127 };
    const value = reader.number(region, name, 0, 0, 127);
    if (match[1] === 'in') fade[match[2] === 'lo' ? 'inLow' : 'inHigh'] = value;
    else fade[match[2] === 'lo' ? 'outLow' : 'outHigh'] = value;
    fades.set(controller, fade);
  }
  return [...fades.values()].filter((fade) => {
    if (fade.controller <= 127) return true;
    reader.note(`xf…cc${fade.controller}`, 'controllers above 127 are not supported', region.place);
    return false;
  });
}

const TARGETS: Record<string, Modulation['target']> = {
  gain: 'gainDb',
  volume: 'gainDb',
  cutoff: 'cutoffCents',
  tune: 'tuneCents',
  pitch: 'tuneCents',
};

function modulationsOf(region: SfzRegion, reader: Reader): Modulation[] {
  const list: Modulation[] = [];
  for (const [name, opcode] of region.opcodes) {
    const match = MODULATION.exec(name);
    if (!match) continue;
    const controller = Number(match[2]);
    if (controller > 127) reader.note(name, 'controllers above 127 are not supported', opcode.place);
    else
      list.push({
        controller,
        target: TARGETS[match[1]],
        depth: reader.number(region, name, 0, -12000, 12000),
      });
  }
  return list;
}

function positionOf(region: SfzRegion): { id: string; name: string } {
  for (const name of ['master_label', 'group_label', 'region_label']) {
    const label = region.opcodes.get(name)?.value ?? '';
    const word = POSITION_WORDS.find((w) =>
      label
        .toLowerCase()
        .split(/[^a-z]+/)
        .includes(w),
    );
    if (word) return { id: word, name: word[0].toUpperCase() + word.slice(1) };
  }
  return { id: 'mix', name: 'Mix' };
}

function articulationOf(
  region: SfzRegion,
  zone: Zone,
  all: Map<string, { articulation: Articulation; byKey: Map<string, Zone> }>,
  reader: Reader,
): { articulation: Articulation; byKey: Map<string, Zone> } {
  const switchKey = region.opcodes.has('sw_last') ? reader.key(region, 'sw_last', 0) : undefined;
  const group = switchKey === undefined ? 'plain' : `key ${switchKey}`;
  const known = all.get(group);
  if (known) return known;
  const label =
    first(region, ['sw_label', 'group_label'])?.value ?? region.opcodes.get('sample')?.value ?? '';
  const guess = guessArticulation(label)?.term.id ?? (zone.oneShot ? 'hit' : 'long');
  const taken = new Set([...all.values()].map((entry) => entry.articulation.id));
  let id = guess;
  for (let n = 2; taken.has(id); n++) id = `${guess} ${n}`;
  const name = first(region, ['sw_label', 'group_label'])?.value ?? guess;
  const entry = {
    articulation: { id, name, zones: [], ...(switchKey === undefined ? {} : { suggestedKey: switchKey }) },
    byKey: new Map<string, Zone>(),
  };
  all.set(group, entry);
  return entry;
}

/** Random ranges (`lorand`) become takes: as many as there are different beginnings on the same keys and velocities. */
function withTakeNumbers(zones: Zone[]): Zone[] {
  const groups = new Map<string, Zone[]>();
  for (const zone of zones)
    if (zone.takes === -1) {
      const key = `${zone.keyLow} ${zone.keyHigh} ${zone.velocityLow} ${zone.velocityHigh} ${zone.role}`;
      groups.set(key, [...(groups.get(key) ?? []), zone]);
    }
  for (const group of groups.values()) {
    const starts = [...new Set(group.map((zone) => zone.take))].sort((a, b) => a - b);
    for (const zone of group) {
      zone.take = starts.indexOf(zone.take);
      zone.takes = starts.length;
    }
  }
  return zones;
}

/** Transitions written key by key with the same recording and interval become one zone over the keys. */
function mergeTransitions(zones: Zone[]): Zone[] {
  const merged: Zone[] = [];
  const open = new Map<string, Zone>();
  for (const zone of zones) {
    if (zone.role === 'transition') {
      const key = JSON.stringify({ ...zone, keyLow: 0, keyHigh: 0 });
      const before = open.get(key);
      if (before && before.keyHigh + 1 === zone.keyLow) {
        before.keyHigh = zone.keyHigh;
        continue;
      }
      open.set(key, zone);
    }
    merged.push(zone);
  }
  return merged;
}
