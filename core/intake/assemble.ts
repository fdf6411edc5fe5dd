import {
  articulationTerm,
  byNearness,
  layerWindow,
  positionName,
  partsOfId,
  VOCABULARY,
  type Articulation,
  type Position,
  type Zone,
} from '../catalogue/index.ts';
import { FarloError } from '../errors/index.ts';
import { BY_CHANCE, type FoundWord, type FoundZone } from '../formats/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { gainToDb } from '../units/index.ts';
import { meaningOf, wordKey, type Meaning } from './meaning.ts';

/** An instrument put together; zones name recordings as the source does, not yet by sample id. */
export interface AssembledInstrument {
  name: string;
  articulations: Articulation[];
  positions: Position[];
  /** See `Instrument`. */
  hallSendDb?: number;
}

/** What is sent more softly is not heard. */
const LOWEST_SEND_DB = -60;

interface Entry {
  articulation: Articulation;
  /** Zones alike in all but position, by their text. */
  alike: Map<string, Zone[]>;
  layers: Map<Zone, number>;
  takes: Map<Zone, number>;
}

/**
 * Puts found zones together into instruments by what their words mean: zones alike in all but position become one
 * zone, zones of another technique or switch another articulation.
 * @throws FarloError when nothing can be played
 */
export function assemble(
  found: readonly FoundZone[],
  meanings: readonly (FoundWord & Meaning)[],
): AssembledInstrument[] {
  if (found.length === 0)
    throw new FarloError('sfz.nothing-to-play', 'No part of what was given can be played.');
  const byWord = new Map(meanings.map((m) => [wordKey(m), m as Meaning]));
  const instruments = new Map<string, FoundZone[]>();
  for (const zone of found) {
    const name = meaningOf(zone, byWord).instrument ?? zone.instrument;
    const list = instruments.get(name);
    if (list) list.push(zone);
    else instruments.set(name, [zone]);
  }
  return [...instruments].map(([name, zones]) => assembleOne(name, zones, byWord));
}

function assembleOne(
  name: string,
  found: readonly FoundZone[],
  byWord: ReadonlyMap<string, Meaning>,
): AssembledInstrument {
  const positions = new Set<string>();
  const entries = new Map<string, Entry>();
  const rates = new Map<Zone, number>();
  const labelled = labelsAsPositions(found, byWord);
  for (const one of found) {
    const meaning = meaningOf(one, byWord);
    const position = one.position ?? meaning.position ?? labelled(one) ?? 'mix';
    positions.add(position);
    const entry = entryFor(one, meaning, entries);
    const zone: Zone = { ...one.zone, samples: {} };
    if (meaning.take !== null) Object.assign(zone, { take: meaning.take, takes: 1 });
    const text = JSON.stringify([
      { ...zone, samples: 0, loop: 0, startFrame: 0, endFrame: 0 },
      meaning.layer,
      meaning.take,
    ]);
    const twins = entry.alike.get(text);
    const twin = twins?.find((candidate) => !(position in candidate.samples));
    if (twin) {
      twin.samples[position] = { sample: one.sample };
      // A zone counts in the frames of its finest recording.
      if (one.rate > (rates.get(twin) ?? 0)) {
        const { startFrame, endFrame, loop } = one.zone;
        Object.assign(twin, { startFrame }, loop ? { loop } : {}, endFrame === undefined ? {} : { endFrame });
        rates.set(twin, one.rate);
      }
      continue;
    }
    zone.samples[position] = { sample: one.sample };
    rates.set(zone, one.rate);
    if (twins) twins.push(zone);
    else entry.alike.set(text, [zone]);
    entry.articulation.zones.push(zone);
    if (meaning.layer !== null) entry.layers.set(zone, meaning.layer);
    if (meaning.take !== null) entry.takes.set(zone, meaning.take);
  }
  const articulations = [...entries.values()].map(finish);
  const order = new Map(VOCABULARY.map((term, i) => [term.id, i]));
  const place = ({ id }: Articulation) => order.get(id) ?? order.get(partsOfId(id).base) ?? 99;
  articulations.sort((a, b) => place(a) - place(b));
  return {
    name,
    articulations,
    positions: [...positions].sort(byNearness).map((id) => ({ id, name: positionName(id) })),
    ...hallSendOf(found),
  };
}

/** What the middle one of its zones sends to a hall: a hall belongs to the track here, not to a sound. */
function hallSendOf(found: readonly FoundZone[]): Pick<AssembledInstrument, 'hallSendDb'> {
  const shares = found.map(({ hallSend = 0 }) => hallSend).sort((a, b) => a - b);
  const db = gainToDb(shares[shares.length >> 1]);
  return db > LOWEST_SEND_DB ? { hallSendDb: Math.round(db * 10) / 10 } : {};
}

/** Labels of one kind that every zone has and that name no technique, where there are several, are the positions. */
function labelsAsPositions(
  found: readonly FoundZone[],
  byWord: ReadonlyMap<string, Meaning>,
): (zone: FoundZone) => string | undefined {
  for (const kind of ['region label', 'master label'] as const) {
    const labelOf = (zone: FoundZone) => zone.words.find((word) => word.kind === kind);
    const labels = new Set<string>();
    const fits = found.every((zone) => {
      const label = labelOf(zone);
      if (label) labels.add(label.text);
      return label !== undefined && byWord.get(wordKey(label))?.articulation == null;
    });
    if (fits && labels.size > 1) return (zone) => labelOf(zone)?.text.trim().toLowerCase();
  }
  return () => undefined;
}

/** The articulation a zone belongs to: one per switch key, otherwise one per technique. */
function entryFor(found: FoundZone, meaning: Meaning, entries: Map<string, Entry>): Entry {
  const { switchKey } = found;
  const wanted = meaning.articulation ?? (found.zone.oneShot ? 'hit' : 'long');
  // Ends and moves without a word of their own belong to the notes before them.
  const before = [...entries.keys()].at(-1);
  const follows = meaning.articulation === null && found.zone.role !== 'attack' && before !== undefined;
  const key = switchKey !== undefined ? `key ${switchKey}` : follows ? before : `technique ${wanted}`;
  const known = entries.get(key);
  if (known) return known;
  const taken = new Set([...entries.values()].map((entry) => entry.articulation.id));
  let id = wanted;
  for (let n = 2; taken.has(id); n++) id = `${wanted} ${n}`;
  const label =
    found.words.find((word) => word.kind === 'switch label') ??
    found.words.find((word) => word.kind === 'group label' || word.kind === 'region label');
  const name = label?.text ?? id;
  const entry: Entry = {
    articulation: { id, name, ...(switchKey === undefined ? {} : { suggestedKey: switchKey }), zones: [] },
    alike: new Map(),
    layers: new Map(),
    takes: new Map(),
  };
  entries.set(key, entry);
  return entry;
}

function finish({ articulation, layers, takes }: Entry): Articulation {
  let { zones } = articulation;
  zones = numberTakes(zones);
  if (layers.size > 0) setLayers(articulation.id, layers);
  if (takes.size > 0) countTakes(takes, layers);
  zones = mergeTransitions(zones);
  // Where moves were recorded, the planner itself chooses between a beginning and a move.
  if (zones.some((zone) => zone.role === 'transition'))
    for (const zone of zones) if (zone.when === 'first') delete zone.when;
  return { ...articulation, zones };
}

/** Layers told by name: a crossfade over dynamics for what is held, velocities for what is short. */
function setLayers(id: string, layers: ReadonlyMap<Zone, number>): void {
  const numbers = [...new Set(layers.values())].sort((a, b) => a - b);
  const count = numbers.length;
  const { group } = articulationTerm(id);
  for (const [zone, layer] of layers) {
    const at = numbers.indexOf(layer);
    if (group === 'short' || group === 'pattern') {
      zone.velocityLow = Math.round((127 * at) / count) + 1;
      zone.velocityHigh = Math.round((127 * (at + 1)) / count);
      continue;
    }
    zone.velocityTrack = 0;
    if (count > 1) zone.fades = [...zone.fades, layerWindow({ controller: CONTROLLER.dynamics }, at, count)];
  }
}

/** Takes told by name: as many as there are on the same keys, touch and layer. */
function countTakes(takes: ReadonlyMap<Zone, number>, layers: ReadonlyMap<Zone, number>): void {
  const groups = new Map<string, Zone[]>();
  for (const zone of takes.keys()) {
    const key = `${zone.role} ${zone.keyLow} ${zone.keyHigh} ${zone.velocityLow} ${layers.get(zone) ?? ''}`;
    const group = groups.get(key);
    if (group) group.push(zone);
    else groups.set(key, [zone]);
  }
  for (const group of groups.values()) {
    const numbers = [...new Set(group.map((zone) => takes.get(zone) ?? 0))].sort((a, b) => a - b);
    for (const zone of group) {
      zone.take = numbers.indexOf(takes.get(zone) ?? 0);
      zone.takes = numbers.length;
    }
  }
}

/** Takes by chance: as many as there are different shares on the same keys and velocities. */
function numberTakes(zones: Zone[]): Zone[] {
  const groups = new Map<string, Zone[]>();
  for (const zone of zones)
    if (zone.takes === BY_CHANCE) {
      const key = `${zone.keyLow} ${zone.keyHigh} ${zone.velocityLow} ${zone.velocityHigh} ${zone.role}`;
      groups.set(key, [...(groups.get(key) ?? []), zone]);
    }
  const more: Zone[] = [];
  for (const group of groups.values()) {
    const starts = [...new Set(group.map((zone) => zone.take))].sort((a, b) => a - b);
    const turns = turnsOf(starts.map((start, i) => (starts[i + 1] ?? CHANCE_PARTS) - start));
    for (const zone of group) {
      const own = turns.flatMap((which, turn) => (starts[which] === zone.take ? turn : []));
      [zone.take] = own;
      zone.takes = turns.length;
      for (const take of own.slice(1)) more.push({ ...zone, take });
    }
  }
  return more.length > 0 ? [...zones, ...more] : zones;
}

/** Shares of chance are counted in so many parts. */
const CHANCE_PARTS = 1e6;
/** Most turns after which takes of unequal shares begin anew. */
const MOST_TURNS = 20;

/**
 * In which order takes follow each other, so that each has its share of the turns: the fewest turns that come within a fiftieth of all
 * shares, each take where it is most overdue.
 */
function turnsOf(shares: readonly number[]): number[] {
  const total = shares.reduce((sum, one) => sum + one, 0);
  const parts = shares.map((one) => one / total);
  for (let count = shares.length; count <= MOST_TURNS; count++) {
    const given = parts.map((part) => Math.max(1, Math.round(part * count)));
    const fits =
      given.reduce((sum, one) => sum + one, 0) === count &&
      given.every((one, i) => Math.abs(one / count - parts[i]) < 0.02);
    if (!fits && count < MOST_TURNS) continue;
    const had = parts.map(() => 0);
    return Array.from({ length: count }, (_, turn) => {
      const due = parts.map((part, i) => part * (turn + 1) - had[i]);
      // The last turns are for those that have had none.
      const without = had.flatMap((times, i) => (times === 0 ? i : []));
      const next = without.length >= count - turn ? without[0] : due.indexOf(Math.max(...due));
      had[next]++;
      return next;
    });
  }
  return parts.map((_, i) => i);
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
