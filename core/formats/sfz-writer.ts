import {
  SOURCE,
  type Articulation,
  type Instrument,
  type Modulation,
  type Zone,
} from '../catalogue/index.ts';
import { LFO_TARGETS, sfzController, sfzCurve } from './sfz-opcodes.ts';
import { SFZ_FILTERS } from './sfz-zone.ts';

/** An instrument as SFZ: the text, and which sample goes to which file beside it. */
export interface WrittenSfz {
  text: string;
  /** Sample id by path. */
  files: Map<string, string>;
}

const TARGET_NAMES: Record<Modulation['target'], string> = {
  gainDb: 'volume',
  amplitude: 'amplitude',
  pan: 'pan',
  cutoffCents: 'cutoff',
  resonanceDb: 'resonance',
  tuneCents: 'tune',
};

/**
 * Writes an instrument as SFZ. Read again, it gives the same articulations, positions and zones.
 * @param rateOf sample rate by id: positions may be kept at different rates, and a zone counts in the highest
 * @param folder below which the samples go, without a slash at its end
 * @param library name of the library it belongs to, written as a comment
 */
export function writeSfz(
  instrument: Pick<Instrument, 'name' | 'articulations' | 'positions' | 'rests'>,
  rateOf: (sample: string) => number = () => 1,
  folder = 'samples',
  library = '',
): WrittenSfz {
  const files = new Map<string, string>();
  const paths = new Map<string, string>();
  const lines = [
    `// ${oneLine(instrument.name)}`,
    ...(library ? [`// Library: ${oneLine(library)}`] : []),
    ...restsOf(instrument.rests ?? {}),
    ...switchesOf(instrument.articulations),
  ];
  for (const articulation of instrument.articulations) {
    lines.push('', '<group>', ...labelsOf(articulation));
    const joins = articulation.zones.some((zone) => zone.role === 'transition');
    for (const zone of articulation.zones) {
      const rate = Math.max(...Object.values(zone.samples).map((ref) => rateOf(ref.sample)));
      for (const { id } of instrument.positions) {
        const ref = zone.samples[id];
        if (!ref) continue;
        const path = pathFor(ref.sample, articulation.id, zone, id, folder, paths, files);
        for (const keys of keysOf(zone)) {
          const own = inFramesOf(zone, rateOf(ref.sample) / rate);
          const opcodes = [...keys, ...opcodesOf(own, joins)].join(' ');
          lines.push(`<region> ${opcodes} region_label=${id} sample=${path}`);
        }
      }
    }
  }
  return { text: lines.join('\n') + '\n', files };
}

/** A zone with its places counted in frames of another rate. */
function inFramesOf(zone: Zone, factor: number): Zone {
  if (factor === 1) return zone;
  const { loop, startFrame, endFrame } = zone;
  return {
    ...zone,
    startFrame: Math.round(startFrame * factor),
    ...(endFrame === undefined ? {} : { endFrame: Math.round(endFrame * factor) }),
    ...(loop
      ? { loop: { ...loop, start: Math.round(loop.start * factor), end: Math.round(loop.end * factor) } }
      : {}),
  };
}

/** Range of the keyswitches, and the one that is on at first: without it other players stay silent until a switch is pressed. */
function switchesOf(articulations: readonly Articulation[]): string[] {
  const keyed = articulations.filter((one) => one.suggestedKey !== undefined);
  if (keyed.length === 0) return [];
  const keys = keyed.map((one) => one.suggestedKey as number);
  const first = keyed.find((one) => one.id === 'long') ?? keyed[0];
  return [
    '',
    `<global> sw_lokey=${Math.min(...keys)} sw_hikey=${Math.max(...keys)} sw_default=${first.suggestedKey}`,
  ];
}

/** Where controllers rest before anything moves them. */
function restsOf(rests: Readonly<Record<number, number>>): string[] {
  const set = Object.entries(rests).map(([controller, value]) => `set_cc${controller}=${value}`);
  return set.length > 0 ? ['', `<control> ${set.join(' ')}`] : [];
}

const oneLine = (text: string) => text.replace(/[\r\n]+/g, ' ');

function labelsOf({ id, name, suggestedKey }: Articulation): string[] {
  return [
    ...(suggestedKey === undefined ? [] : [`sw_last=${suggestedKey}`]),
    `group_label=${id}`,
    `sw_label=${oneLine(name)}`,
  ];
}

/** Path of a sample, the same wherever it is used. */
function pathFor(
  sample: string,
  articulation: string,
  zone: Zone,
  position: string,
  folder: string,
  paths: Map<string, string>,
  files: Map<string, string>,
): string {
  const known = paths.get(sample);
  if (known) return known;
  const name = `${zone.rootKey} ${zone.role}`;
  let path = `${folder}/${articulation}/${name} ${position}.wav`;
  for (let n = 2; files.has(path); n++) path = `${folder}/${articulation}/${name} ${n} ${position}.wav`;
  paths.set(sample, path);
  files.set(path, sample);
  return path;
}

/** Moves are written key by key, since SFZ names the key they come from. */
function keysOf(zone: Zone): string[][] {
  const { role, interval, keyLow, keyHigh, rootKey } = zone;
  if (role !== 'transition' || interval === undefined)
    return [[`lokey=${keyLow}`, `hikey=${keyHigh}`, `pitch_keycenter=${rootKey}`]];
  return Array.from({ length: keyHigh - keyLow + 1 }, (_, i) => [
    `key=${keyLow + i}`,
    `sw_previous=${keyLow + i - interval}`,
    `pitch_keycenter=${rootKey}`,
  ]);
}

/** Number as text without the noise of binary fractions. */
const num = (value: number) => String(Number(value.toPrecision(15)));

function opcodesOf(zone: Zone, joins: boolean): string[] {
  const out: string[] = [];
  const put = (name: string, value: number | undefined, otherwise?: number) => {
    if (value !== undefined && value !== otherwise) out.push(`${name}=${num(value)}`);
  };
  const trigger = triggerOf(zone, joins);
  if (trigger) out.push(`trigger=${trigger}`);
  put('pitch_keytrack', zone.keyTrack);
  put('lovel', zone.velocityLow, 1);
  put('hivel', zone.velocityHigh, 127);
  for (const gate of zone.gates ?? []) {
    const number = sfzController(gate.controller);
    out.push(`locc${number}=${num(gate.low)}`, `hicc${number}=${num(gate.high)}`);
  }
  writeFades(zone, out);
  if (zone.takes > 1) out.push(`seq_length=${zone.takes}`, `seq_position=${zone.take + 1}`);
  put('tune', zone.tuneCents, 0);
  put('volume', zone.gainDb, 0);
  put('pan', zone.pan === undefined ? undefined : zone.pan * 100);
  put('amp_veltrack', zone.velocityTrack * 100, 100);
  put('offset', zone.startFrame, 0);
  put('end', zone.endFrame === undefined ? undefined : zone.endFrame - 1);
  writeLoop(zone, out);
  writeEnvelope('ampeg', zone.envelope, out);
  put('cutoff', zone.cutoffHz);
  put('resonance', zone.resonanceDb);
  if (zone.filter) out.push(`fil_type=${SFZ_FILTERS[zone.filter]}`);
  writeMoves(zone, out);
  for (const modulation of zone.modulations) writeModulation(modulation, out);
  put('group', zone.group);
  put('off_by', zone.offBy);
  if (zone.offSeconds !== undefined) out.push('off_mode=time', `off_time=${num(zone.offSeconds)}`);
  put('polyphony', zone.polyphony);
  put('note_polyphony', zone.keyPolyphony);
  put('rt_decay', zone.decayDbPerSecond);
  return out;
}

function triggerOf(zone: Zone, joins: boolean): string | undefined {
  if (zone.role === 'release') return 'release';
  if (zone.role === 'transition' || zone.when === 'joined') return 'legato';
  return zone.when === 'first' || joins ? 'first' : undefined;
}

function writeFades(zone: Zone, out: string[]): void {
  for (const { controller, inLow, inHigh, outLow, outHigh } of zone.fades) {
    const suffix =
      controller === SOURCE.key
        ? 'key'
        : controller === SOURCE.velocity
          ? 'vel'
          : `cc${sfzController(controller)}`;
    if (inLow > 0 || inHigh > 0)
      out.push(`xfin_lo${suffix}=${num(inLow)}`, `xfin_hi${suffix}=${num(inHigh)}`);
    if (outLow < 127 || outHigh < 127 || (inLow === 0 && inHigh === 0))
      out.push(`xfout_lo${suffix}=${num(outLow)}`, `xfout_hi${suffix}=${num(outHigh)}`);
  }
}

function writeLoop({ role, loop, oneShot }: Zone, out: string[]): void {
  if (loop)
    out.push(
      `loop_mode=${loop.untilRelease ? 'loop_sustain' : 'loop_continuous'}`,
      `loop_start=${loop.start}`,
      `loop_end=${loop.end - 1}`,
    );
  else out.push(`loop_mode=${oneShot && role === 'attack' ? 'one_shot' : 'no_loop'}`);
}

/** Decibels that a straight fall has come down by when a fade of the same length has gone. */
const FADED_DB = 40;

function writeEnvelope(name: string, envelope: Zone['envelope'], out: string[]): void {
  const { delaySeconds, attackSeconds, holdSeconds, decaySeconds, sustain, releaseDb } = envelope;
  // What falls straight is written as the fade that sounds as long: one that lasts until it is 40 dB down.
  const releaseSeconds = envelope.releaseSeconds * (releaseDb === undefined ? 1 : FADED_DB / releaseDb);
  const plain = name === 'ampeg' ? { sustain: 100, release: 0.02 } : { sustain: 0, release: 0 };
  const put = (stage: string, value: number, otherwise: number) => {
    if (value !== otherwise) out.push(`${name}_${stage}=${num(value)}`);
  };
  put('delay', delaySeconds ?? 0, 0);
  put('attack', attackSeconds, 0);
  put('hold', holdSeconds, 0);
  put('decay', decaySeconds, 0);
  put('sustain', sustain * 100, plain.sustain);
  put('release', releaseSeconds, plain.release);
}

function writeMoves(zone: Zone, out: string[]): void {
  for (const move of zone.moves ?? []) {
    const name = move.target === 'cutoffCents' ? 'fileg' : 'pitcheg';
    out.push(`${name}_depth=${num(move.depth)}`);
    writeEnvelope(name, move, out);
  }
  (zone.lfos ?? []).forEach((lfo, i) => {
    const name = `lfo${i + 1}`;
    const target = LFO_TARGETS.find(([, own]) => own === lfo.target)?.[0] ?? 'pitch';
    out.push(`${name}_freq=${num(lfo.hertz)}`, `${name}_${target}=${num(lfo.depth)}`);
    if (lfo.delaySeconds > 0) out.push(`${name}_delay=${num(lfo.delaySeconds)}`);
    if (lfo.fadeSeconds > 0) out.push(`${name}_fade=${num(lfo.fadeSeconds)}`);
    if (lfo.controller !== undefined)
      out.push(`${name}_${target}_oncc${sfzController(lfo.controller)}=${num(lfo.controllerDepth ?? 0)}`);
  });
}

function writeModulation({ controller, target, depth, curve }: Modulation, out: string[]): void {
  const name = TARGET_NAMES[target];
  const number = sfzController(controller);
  const scale = target === 'pan' || target === 'amplitude' ? 100 : 1;
  out.push(`${name}_oncc${number}=${num(depth * scale)}`);
  if (sfzCurve(curve) > 0) out.push(`${name}_curvecc${number}=${sfzCurve(curve)}`);
}
