import { SOURCE, type Curve, type Fade, type Gate, type Lfo, type Modulation } from '../catalogue/index.ts';
import { FarloError, type Place } from '../errors/index.ts';
import { parsePitch } from '../music/index.ts';
import { quoted } from './quoted.ts';
import type { Opcode, SfzRegion } from './sfz.ts';

/** An opcode, or a value of one, that changes nothing in Farlo or not as written; told to the user. */
export interface Unsupported {
  opcode: string;
  reason: string;
  count: number;
  place: Place;
}

const KNOWN = new Set(
  (
    'sample key lokey hikey pitch_keycenter pitch_keytrack pitch_veltrack lovel hivel tune pitch transpose bend_up bend_down ' +
    'volume gain amplitude pan amp_veltrack amp_keytrack amp_keycenter rt_decay delay offset end ' +
    'loop_mode loopmode loop_start loop_end loopstart loopend trigger sw_lokey sw_hikey sw_last sw_down sw_label sw_default ' +
    'sw_previous seq_length seq_position lorand hirand group off_by off_mode off_time polyphony note_polyphony ' +
    'ampeg_delay ampeg_attack ampeg_hold ampeg_decay ampeg_sustain ampeg_release ' +
    'fileg_delay fileg_attack fileg_hold fileg_decay fileg_sustain fileg_release fileg_depth ' +
    'pitcheg_delay pitcheg_attack pitcheg_hold pitcheg_decay pitcheg_sustain pitcheg_release pitcheg_depth ' +
    'amplfo_delay amplfo_fade amplfo_freq amplfo_depth fillfo_delay fillfo_fade fillfo_freq fillfo_depth ' +
    'pitchlfo_delay pitchlfo_fade pitchlfo_freq pitchlfo_depth ' +
    'cutoff resonance fil_type fil_keytrack fil_keycenter fil_veltrack ' +
    'xfin_lokey xfin_hikey xfout_lokey xfout_hikey xfin_lovel xfin_hivel xfout_lovel xfout_hivel ' +
    'xf_keycurve xf_velcurve xf_cccurve group_label master_label region_label global_label'
  ).split(' '),
);
const FADE = /^xf(in|out)_(lo|hi)(?:cc(\d+)|(key)|(vel))$/;
const MODULATION = /^(volume|gain|amplitude|pan|cutoff|resonance|tune|pitch)_(?:on)?cc(\d+)$/;
const CURVE = /^(volume|gain|amplitude|pan|cutoff|resonance|tune|pitch)_curvecc(\d+)$/;
const GATE = /^(lo|hi)cc(\d+)$/;
/** LFOs of version 2, numbered: a region may have several for one target. */
const NUMBERED_LFO = /^lfo(\d+)_(freq|delay|fade|pitch|cutoff|volume)(?:_(?:on)?cc(\d+))?$/;
const LFO_DEPTH = /^(amplfo|fillfo|pitchlfo)_depth(?:on)?cc(\d+)$/;
/** Controllers that SFZ numbers beyond MIDI's. */
const EXTENDED: Record<number, number> = { 128: SOURCE.bend, 131: SOURCE.velocity, 133: SOURCE.key };
const CURVES: readonly Curve[] = ['rise', 'bipolar', 'fall', 'bipolarFall', 'square'];

/** Number that SFZ writes for a source. */
export function sfzController(source: number): number {
  const entry = Object.entries(EXTENDED).find(([, own]) => own === source);
  return entry ? Number(entry[0]) : source;
}

/** Number that SFZ writes for a curve. */
export function sfzCurve(curve: Curve | undefined): number {
  const known = CURVES.indexOf(curve ?? 'rise');
  // SFZ has no number for bent ones: the straight line between their ends stands for them.
  return known >= 0 ? known : CURVES.indexOf(curve?.endsWith('Fall') ? 'fall' : 'rise');
}

/** Reads opcode values with ranges and places, and gathers what is not supported. */
export class OpcodeReader {
  readonly unsupported = new Map<string, Unsupported>();

  note(opcode: string, reason: string, place: Place): void {
    const known = this.unsupported.get(opcode + reason);
    if (known) known.count++;
    else this.unsupported.set(opcode + reason, { opcode, reason, count: 1, place });
  }

  /** Notes every opcode of a region that Farlo does not read. */
  noteUnknown(region: SfzRegion): void {
    for (const [name, opcode] of region.opcodes)
      if (
        !KNOWN.has(name) &&
        !FADE.test(name) &&
        !MODULATION.test(name) &&
        !CURVE.test(name) &&
        !GATE.test(name) &&
        !LFO_DEPTH.test(name) &&
        !NUMBERED_LFO.test(name)
      )
        this.note(name, 'not supported; it changes nothing here', opcode.place);
    for (const name of ['xf_keycurve', 'xf_velcurve', 'xf_cccurve']) {
      const curve = region.opcodes.get(name);
      if (curve?.value === 'gain') this.note(name, 'played with equal power instead of “gain”', curve.place);
    }
  }

  /** @throws FarloError with the line when the value is no number */
  number(
    region: SfzRegion,
    names: string | readonly string[],
    otherwise: number,
    low = -Infinity,
    high = Infinity,
  ): number {
    const opcode = firstOf(region, names);
    if (!opcode) return otherwise;
    const value = Number(opcode.value);
    if (opcode.value === '' || !Number.isFinite(value))
      throw new FarloError('sfz.syntax', `“${quoted(opcode.value, 40)}” is no number.`, {
        ...opcode.place,
        opcode: String(names),
      });
    return Math.min(high, Math.max(low, value));
  }

  /** A key by number or name, with the file's own offset. @throws FarloError with the line */
  key(region: SfzRegion, name: string, otherwise: number): number {
    const opcode = region.opcodes.get(name);
    if (!opcode) return otherwise;
    const key = /^-?\d+$/.test(opcode.value) ? Number(opcode.value) : parsePitch(opcode.value, 4);
    if (key === undefined)
      throw new FarloError('sfz.syntax', `“${quoted(opcode.value, 40)}” is no key.`, {
        ...opcode.place,
        opcode: name,
      });
    return key === -1 ? -1 : Math.min(127, Math.max(-1, key + region.keyOffset));
  }

  /** Source number of a controller as written, or undefined (told) when Farlo has no such thing. */
  private sourceOf(written: string, name: string, place: Place): number | undefined {
    const number = Number(written);
    if (number <= 127) return number;
    if (EXTENDED[number] !== undefined) return EXTENDED[number];
    this.note(name, 'this controller beyond 127 is not supported', place);
    return undefined;
  }

  fades(region: SfzRegion): Fade[] {
    const fades = new Map<number, Fade>();
    for (const [name, opcode] of region.opcodes) {
      const match = FADE.exec(name);
      if (!match) continue;
      const source = match[4]
        ? SOURCE.key
        : match[5]
          ? SOURCE.velocity
          : this.sourceOf(match[3], name, opcode.place);
      if (source === undefined) continue;
      const fade = fades.get(source) ?? {
        controller: source,
        inLow: 0,
        inHigh: 0,
        outLow: 127,
        outHigh: 127,
      };
      const value = match[4] ? this.key(region, name, 0) : this.number(region, name, 0, 0, 127);
      if (match[1] === 'in') fade[match[2] === 'lo' ? 'inLow' : 'inHigh'] = value;
      else fade[match[2] === 'lo' ? 'outLow' : 'outHigh'] = value;
      fades.set(source, fade);
    }
    return [...fades.values()].sort((a, b) => a.controller - b.controller);
  }

  gates(region: SfzRegion): Gate[] {
    const gates = new Map<number, Gate>();
    for (const [name, opcode] of region.opcodes) {
      const match = GATE.exec(name);
      if (!match) continue;
      const source = this.sourceOf(match[2], name, opcode.place);
      if (source === undefined) continue;
      const gate = gates.get(source) ?? { controller: source, low: 0, high: 127 };
      gate[match[1] === 'lo' ? 'low' : 'high'] = this.number(region, name, 0, 0, 127);
      gates.set(source, gate);
    }
    return [...gates.values()].sort((a, b) => a.controller - b.controller);
  }

  modulations(region: SfzRegion): Modulation[] {
    const list: Modulation[] = [];
    for (const [name, opcode] of region.opcodes) {
      const match = MODULATION.exec(name);
      if (!match) continue;
      const controller = this.sourceOf(match[2], name, opcode.place);
      if (controller === undefined) continue;
      const written = match[1];
      const scale = written === 'pan' || written === 'amplitude' ? 1 / 100 : 1;
      const curve = this.number(region, `${written}_curvecc${match[2]}`, 0);
      if (CURVES[curve] === undefined)
        this.note(`${written}_curvecc`, `curve ${curve} is played as a straight line`, opcode.place);
      list.push({
        controller,
        target: TARGETS[written],
        depth: this.number(region, name, 0, -12000, 12000) * scale,
        ...(curve > 0 && CURVES[curve] ? { curve: CURVES[curve] } : {}),
      });
    }
    const tracks: [string, Modulation['target']][] = [
      ['fil_veltrack', 'cutoffCents'],
      ['pitch_veltrack', 'tuneCents'],
    ];
    for (const [name, target] of tracks) {
      const depth = this.number(region, name, 0, -12000, 12000);
      if (depth !== 0) list.push({ controller: SOURCE.velocity, target, depth });
    }
    const bend = this.number(region, 'bend_up', 200, -9600, 9600);
    if (bend !== 200)
      list.push({ controller: SOURCE.bend, target: 'tuneCents', depth: bend - 200, curve: 'bipolar' });
    return list;
  }

  /** Controller and depth that ride an LFO (`pitchlfo_depthccN`). */
  lfoRide(region: SfzRegion, lfo: string): { controller?: number; controllerDepth?: number } {
    for (const [name, opcode] of region.opcodes) {
      const match = LFO_DEPTH.exec(name);
      if (match?.[1] !== lfo) continue;
      const controller = this.sourceOf(match[2], name, opcode.place);
      if (controller !== undefined)
        return { controller, controllerDepth: this.number(region, name, 0, -12000, 12000) };
    }
    return {};
  }

  /** LFOs of version 2 (`lfo1_freq`, `lfo1_pitch` …). */
  numberedLfos(region: SfzRegion): Lfo[] {
    const numbers = new Set<string>();
    for (const name of region.opcodes.keys()) {
      const match = NUMBERED_LFO.exec(name);
      if (match) numbers.add(match[1]);
    }
    const list: Lfo[] = [];
    for (const number of numbers)
      for (const [written, target] of LFO_TARGETS) {
        const depth = this.number(region, `lfo${number}_${written}`, 0, -12000, 12000);
        const ride = this.numberedRide(region, number, written);
        if (depth === 0 && !ride.controllerDepth) continue;
        list.push({
          target,
          depth,
          hertz: this.number(region, `lfo${number}_freq`, 0, 0, 40),
          delaySeconds: this.number(region, `lfo${number}_delay`, 0, 0, 100),
          fadeSeconds: this.number(region, `lfo${number}_fade`, 0, 0, 100),
          ...ride,
        });
      }
    return list;
  }

  private numberedRide(
    region: SfzRegion,
    number: string,
    written: string,
  ): { controller?: number; controllerDepth?: number } {
    for (const [name, opcode] of region.opcodes) {
      const match = NUMBERED_LFO.exec(name);
      if (match?.[1] !== number || match[2] !== written || match[3] === undefined) continue;
      const controller = this.sourceOf(match[3], name, opcode.place);
      if (controller !== undefined)
        return { controller, controllerDepth: this.number(region, name, 0, -12000, 12000) };
    }
    return {};
  }
}

/** What an LFO of SFZ moves, as version 2 writes it. */
export const LFO_TARGETS = [
  ['volume', 'gainDb'],
  ['cutoff', 'cutoffCents'],
  ['pitch', 'tuneCents'],
] as const;

const TARGETS: Record<string, Modulation['target']> = {
  gain: 'gainDb',
  volume: 'gainDb',
  amplitude: 'amplitude',
  pan: 'pan',
  cutoff: 'cutoffCents',
  resonance: 'resonanceDb',
  tune: 'tuneCents',
  pitch: 'tuneCents',
};

/** The first of some opcodes that a region has. */
export function firstOf(region: SfzRegion, names: string | readonly string[]): Opcode | undefined {
  if (typeof names === 'string') return region.opcodes.get(names);
  for (const name of names) {
    const opcode = region.opcodes.get(name);
    if (opcode) return opcode;
  }
  return undefined;
}
