import {
  SOURCE,
  type Envelope,
  type FilterKind,
  type Lfo,
  type Modulation,
  type ShapedMove,
  type Zone,
  type ZoneRole,
} from '../catalogue/index.ts';
import { centsToRatio } from '../units/index.ts';
import { quoted } from './quoted.ts';
import { firstOf, type OpcodeReader } from './sfz-opcodes.ts';
import type { SfzRegion } from './sfz.ts';

/** What must be known of a recording before it can be mapped. */
export interface SampleFacts {
  frames: number;
  rate: number;
  loops: readonly { start: number; end: number }[];
  /** Root key the file itself names. */
  rootKey?: number;
}

export const SFZ_FILTERS: Record<FilterKind, string> = {
  lowpass1: 'lpf_1p',
  lowpass2: 'lpf_2p',
  highpass1: 'hpf_1p',
  highpass2: 'hpf_2p',
  bandpass: 'bpf_2p',
  notch: 'brf_2p',
};
const SECONDS_OFF_FAST = 0.006;
/** A take whose number is still a share of chance carries this; `withTakeNumbers` turns it into a number. */
export const BY_CHANCE = -1;

/** Role, keys and everything else of one region; undefined when it cannot be played (told to the user). */
export function zoneOfRegion(
  region: SfzRegion,
  facts: SampleFacts,
  reader: OpcodeReader,
): Omit<Zone, 'samples'> | undefined {
  const key = reader.key(region, 'key', -2);
  const keyLow = reader.key(region, 'lokey', key >= 0 ? key : 0);
  const keyHigh = reader.key(region, 'hikey', key >= 0 ? key : 127);
  const role = roleOf(region, reader);
  if (!role) return undefined;
  if (keyHigh < keyLow || keyHigh < 0) {
    reader.note('hikey', 'a region whose highest key lies below its lowest is left out', region.place);
    return undefined;
  }
  const [velocityLow, velocityHigh] = [
    reader.number(region, 'lovel', 1, 0, 127),
    reader.number(region, 'hivel', 127, 0, 127),
  ];
  if (velocityHigh < velocityLow) {
    reader.note('hivel', 'a region whose highest velocity lies below its lowest is left out', region.place);
    return undefined;
  }
  if (reader.number(region, 'end', 0) < 0) {
    reader.note('end', 'a region that ends before its first frame is off, and left out', region.place);
    return undefined;
  }
  const modulations = reader.modulations(region);
  const zone: Omit<Zone, 'samples'> = {
    role,
    keyLow: Math.max(0, keyLow),
    keyHigh,
    rootKey: rootOf(region, facts, reader, key),
    velocityLow,
    velocityHigh,
    fades: reader.fades(region),
    modulations,
    take: reader.number(region, 'seq_position', 1, 1, 1000) - 1,
    takes: reader.number(region, 'seq_length', 1, 1, 1000),
    tuneCents: reader.number(region, ['tune', 'pitch'], 0, -9600, 9600),
    gainDb: gainOf(region, reader, modulations),
    velocityTrack: reader.number(region, 'amp_veltrack', 100, -100, 100) / 100,
    startFrame: Math.min(facts.frames - 1, Math.round(reader.number(region, 'offset', 0, 0))),
    oneShot: false,
    envelope: envelopeOf(region, reader),
  };
  if (zone.takes > 1) zone.take = Math.min(zone.take, zone.takes - 1);
  else zone.take = 0;
  readRanges(zone, region, reader);
  readLoop(zone, region, facts, reader);
  readFilter(zone, region, reader);
  readMoves(zone, region, reader);
  readGroups(zone, region, reader);
  if (role === 'transition') zone.interval = keyLow - reader.key(region, 'sw_previous', keyLow);
  if (role === 'release') {
    const decay = reader.number(region, 'rt_decay', 0, 0, 200);
    if (decay > 0) zone.decayDbPerSecond = decay;
  }
  return zone;
}

type Draft = Omit<Zone, 'samples'>;

function rootOf(region: SfzRegion, facts: SampleFacts, reader: OpcodeReader, key: number): number {
  const transpose = reader.number(region, 'transpose', 0, -127, 127);
  const written = region.opcodes.get('pitch_keycenter');
  if (written?.value === 'sample') return (facts.rootKey ?? 60) - transpose;
  return reader.key(region, 'pitch_keycenter', key >= 0 ? key : 60) - transpose;
}

function roleOf(region: SfzRegion, reader: OpcodeReader): ZoneRole | undefined {
  const trigger = region.opcodes.get('trigger');
  switch (trigger?.value ?? 'attack') {
    case 'attack':
    case 'first':
      return 'attack';
    case 'legato':
      return region.opcodes.has('sw_previous') ? 'transition' : 'attack';
    case 'release':
    case 'release_key':
      return 'release';
    default:
      reader.note(
        'trigger',
        `“${quoted(trigger?.value ?? '', 40)}” is not supported; the region is left out`,
        region.place,
      );
      return undefined;
  }
}

function gainOf(region: SfzRegion, reader: OpcodeReader, modulations: Modulation[]): number {
  let gain = reader.number(region, ['volume', 'gain'], 0, -144, 48);
  const amplitude = reader.number(region, 'amplitude', 100, 0, 10000);
  if (amplitude !== 100) gain += amplitude > 0 ? 20 * Math.log10(amplitude / 100) : -144;
  const perKey = reader.number(region, 'amp_keytrack', 0, -96, 12);
  if (perKey !== 0) {
    gain -= perKey * reader.key(region, 'amp_keycenter', 60);
    modulations.push({ controller: SOURCE.key, target: 'gainDb', depth: perKey * 127 });
  }
  return gain;
}

function envelopeOf(region: SfzRegion, reader: OpcodeReader): Envelope {
  const time = (name: string, otherwise: number) => reader.number(region, name, otherwise, 0, 100);
  const delay = time('ampeg_delay', 0) + time('delay', 0);
  return {
    ...(delay > 0 ? { delaySeconds: delay } : {}),
    attackSeconds: time('ampeg_attack', 0),
    holdSeconds: time('ampeg_hold', 0),
    decaySeconds: time('ampeg_decay', 0),
    sustain: time('ampeg_sustain', 100) / 100,
    releaseSeconds: time('ampeg_release', 0.02),
  };
}

function readRanges(zone: Draft, region: SfzRegion, reader: OpcodeReader): void {
  const gates = reader.gates(region);
  if (gates.length > 0) zone.gates = gates;
  const trigger = region.opcodes.get('trigger')?.value;
  if (zone.role === 'attack' && trigger === 'legato') zone.when = 'joined';
  // Where moves were recorded, “first” says what the planner does anyway: see `keepWhen`.
  if (zone.role === 'attack' && trigger === 'first') zone.when = 'first';
  const perKey = reader.number(region, 'pitch_keytrack', 100, -1200, 1200);
  if (perKey !== 100) zone.keyTrack = perKey;
  const pan = reader.number(region, 'pan', 0, -100, 100) / 100;
  if (pan !== 0) zone.pan = pan;
  if (region.opcodes.has('lorand') || region.opcodes.has('hirand')) {
    zone.take = Math.round(reader.number(region, 'lorand', 0, 0, 1) * 1e6);
    zone.takes = BY_CHANCE;
  }
}

function readLoop(zone: Draft, region: SfzRegion, facts: SampleFacts, reader: OpcodeReader): void {
  const mode =
    firstOf(region, ['loop_mode', 'loopmode'])?.value ??
    (facts.loops.length > 0 ? 'loop_continuous' : 'no_loop');
  zone.oneShot = mode === 'one_shot' || zone.role !== 'attack';
  const end = Math.round(reader.number(region, 'end', facts.frames - 1)) + 1;
  if (end < facts.frames && end > 0) zone.endFrame = end;
  if (mode !== 'loop_continuous' && mode !== 'loop_sustain') return;
  const first = facts.loops[0] as SampleFacts['loops'][number] | undefined;
  const start = Math.round(reader.number(region, ['loop_start', 'loopstart'], first?.start ?? 0, 0));
  const loopEnd =
    Math.round(
      reader.number(region, ['loop_end', 'loopend'], (first?.end ?? zone.endFrame ?? facts.frames) - 1),
    ) + 1;
  if (loopEnd > start && loopEnd <= facts.frames)
    zone.loop = { start, end: loopEnd, ...(mode === 'loop_sustain' ? { untilRelease: true } : {}) };
  else if (loopEnd <= start)
    reader.note('loop_end', 'a loop that ends before it begins is left out', region.place);
  else reader.note('loop_end', 'a loop that reaches outside its sample is left out', region.place);
}

function readFilter(zone: Draft, region: SfzRegion, reader: OpcodeReader): void {
  if (region.opcodes.has('resonance')) zone.resonanceDb = reader.number(region, 'resonance', 0, 0, 40);
  const moved = zone.modulations.some((m) => m.target === 'cutoffCents') || region.opcodes.has('fileg_depth');
  if (!region.opcodes.has('cutoff')) {
    if (moved)
      reader.note('cutoff', 'what moves the filter does nothing without a cutoff of its own', region.place);
    return;
  }
  zone.cutoffHz = reader.number(region, 'cutoff', 20000, 20, 24000);
  const written = region.opcodes.get('fil_type');
  if (written && written.value !== 'lpf_2p') {
    const kind = (Object.keys(SFZ_FILTERS) as FilterKind[]).find((k) => SFZ_FILTERS[k] === written.value);
    if (kind) zone.filter = kind;
    else reader.note('fil_type', `“${quoted(written.value, 40)}” is played as a low-pass`, written.place);
  }
  const perKey = reader.number(region, 'fil_keytrack', 0, 0, 1200);
  if (perKey !== 0) {
    zone.modulations.push({ controller: SOURCE.key, target: 'cutoffCents', depth: perKey * 127 });
    zone.cutoffHz *= centsToRatio(-perKey * reader.key(region, 'fil_keycenter', 60));
  }
}

function readMoves(zone: Draft, region: SfzRegion, reader: OpcodeReader): void {
  const moves: ShapedMove[] = [];
  for (const [name, target] of [
    ['fileg', 'cutoffCents'],
    ['pitcheg', 'tuneCents'],
  ] as const) {
    const depth = reader.number(region, `${name}_depth`, 0, -12000, 12000);
    const time = (stage: string) => reader.number(region, `${name}_${stage}`, 0, 0, 100);
    if (depth !== 0)
      moves.push({
        target,
        depth,
        delaySeconds: time('delay'),
        attackSeconds: time('attack'),
        holdSeconds: time('hold'),
        decaySeconds: time('decay'),
        sustain: reader.number(region, `${name}_sustain`, 0, 0, 100) / 100,
        releaseSeconds: time('release'),
      });
  }
  if (moves.length > 0) zone.moves = moves;
  const lfos: Lfo[] = [];
  for (const [name, target] of [
    ['amplfo', 'gainDb'],
    ['fillfo', 'cutoffCents'],
    ['pitchlfo', 'tuneCents'],
  ] as const) {
    const ride = reader.lfoRide(region, name);
    const depth = reader.number(region, `${name}_depth`, 0, -12000, 12000);
    if (depth === 0 && !ride.controllerDepth) continue;
    lfos.push({
      target,
      depth,
      hertz: reader.number(region, `${name}_freq`, 0, 0, 40),
      delaySeconds: reader.number(region, `${name}_delay`, 0, 0, 100),
      fadeSeconds: reader.number(region, `${name}_fade`, 0, 0, 100),
      ...ride,
    });
  }
  lfos.push(...reader.numberedLfos(region));
  if (lfos.length > 0) zone.lfos = lfos;
}

function readGroups(zone: Draft, region: SfzRegion, reader: OpcodeReader): void {
  const whole = (name: string) =>
    region.opcodes.has(name) ? Math.round(reader.number(region, name, 0, -1e9, 1e9)) : undefined;
  const group = whole('group');
  const offBy = whole('off_by');
  // Group 0 is what a region without the opcode belongs to.
  if (group) zone.group = group;
  if (offBy) zone.offBy = offBy;
  const mode = region.opcodes.get('off_mode')?.value ?? 'fast';
  if (offBy && mode === 'normal') zone.offSeconds = zone.envelope.releaseSeconds;
  else if (offBy && mode === 'time')
    zone.offSeconds = reader.number(region, 'off_time', SECONDS_OFF_FAST, 0, 100);
  const most = whole('polyphony');
  if (most !== undefined) zone.polyphony = Math.max(1, most);
  const perKey = whole('note_polyphony');
  if (perKey !== undefined) zone.keyPolyphony = Math.max(1, perKey);
}
