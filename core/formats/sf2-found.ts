import type { Lfo, ShapedMove } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import { clamp } from '../units/index.ts';
import type { FoundZone } from './found.ts';
import { effectiveModulators, modulatedBy } from './sf2-modulators.ts';
import type { Unsupported } from './sfz-opcodes.ts';
import type { Sf2Bundle, Sf2Generator, Sf2Modulator, Sf2Zone, SoundFont } from './sf2.ts';

/** Generator operators (section 8.1.2 of the specification). */
const G = {
  startOffset: 0,
  endOffset: 1,
  loopStartOffset: 2,
  loopEndOffset: 3,
  startCoarse: 4,
  modLfoToPitch: 5,
  vibLfoToPitch: 6,
  modEnvToPitch: 7,
  cutoff: 8,
  resonance: 9,
  modLfoToCutoff: 10,
  modEnvToCutoff: 11,
  endCoarse: 12,
  modLfoToVolume: 13,
  chorusSend: 15,
  reverbSend: 16,
  pan: 17,
  modLfoDelay: 21,
  modLfoFrequency: 22,
  vibLfoDelay: 23,
  vibLfoFrequency: 24,
  modEnvDelay: 25,
  modEnvAttack: 26,
  modEnvHold: 27,
  modEnvDecay: 28,
  modEnvSustain: 29,
  modEnvRelease: 30,
  volEnvDelay: 33,
  volEnvAttack: 34,
  volEnvHold: 35,
  volEnvDecay: 36,
  volEnvSustain: 37,
  volEnvRelease: 38,
  instrument: 41,
  keyRange: 43,
  velRange: 44,
  loopStartCoarse: 45,
  key: 46,
  velocity: 47,
  attenuation: 48,
  loopEndCoarse: 50,
  coarseTune: 51,
  fineTune: 52,
  sample: 53,
  loopMode: 54,
  scaleTuning: 56,
  exclusive: 57,
  rootKey: 58,
} as const;

/** Values a generator has when nothing gives another (section 8.1.3). */
const DEFAULTS: Record<number, number> = {
  [G.cutoff]: 13500,
  [G.modLfoDelay]: -12000,
  [G.vibLfoDelay]: -12000,
  [G.modEnvDelay]: -12000,
  [G.modEnvAttack]: -12000,
  [G.modEnvHold]: -12000,
  [G.modEnvDecay]: -12000,
  [G.modEnvRelease]: -12000,
  [G.volEnvDelay]: -12000,
  [G.volEnvAttack]: -12000,
  [G.volEnvHold]: -12000,
  [G.volEnvDecay]: -12000,
  [G.volEnvRelease]: -12000,
  [G.scaleTuning]: 100,
  [G.rootKey]: -1,
  [G.key]: -1,
  [G.velocity]: -1,
};
/** Generators that a preset may not add to. */
const INSTRUMENT_ONLY = new Set<number>([0, 1, 2, 3, 4, 12, 45, 46, 47, 50, 54, 57, 58]);
/** A release falls 100 dB in its time, straight; what lies below so many is not heard and need not be computed. */
const RELEASE_DB = 80;
/** An emulation's attenuation counts less than written: the devices that set the custom applied 0.4 of it. */
const ATTENUATION_SHARE = 0.4;
/** Sends to a reverb that differ by less are taken as one. */
const ALIKE_SENDS = 0.05;
const MOST_ZONES = 60_000;

const timecents = (value: number) => (value <= -12000 ? 0 : Math.min(100, 2 ** (value / 1200)));
const absoluteCents = (value: number) => 8.176 * 2 ** (value / 1200);

/**
 * Zones of every preset. Each preset is an instrument of its own, with its name as the word about it; samples are
 * named `sample <index>`.
 */
export function foundInSoundFont(font: SoundFont): { found: FoundZone[]; unsupported: Unsupported[] } {
  const found: FoundZone[] = [];
  const told = new Map<string, Unsupported>();
  const names = new Set<string>();
  for (const preset of font.presets) {
    let name = preset.name || `Preset ${preset.bank}:${preset.program}`;
    for (let n = 2; names.has(name); n++) name = `${preset.name} ${n}`;
    names.add(name);
    const note = (opcode: string, reason: string) => {
      const known = told.get(opcode + reason);
      if (known) known.count++;
      else told.set(opcode + reason, { opcode, reason, count: 1, place: { file: `preset ${name}` } });
    };
    const zones = zonesOfPreset(preset, font, note);
    const sends = zones.map(({ hallSend = 0 }) => hallSend);
    if (Math.max(...sends) - Math.min(...sends) > ALIKE_SENDS)
      note(
        'reverb send',
        'some of its sounds go to a reverb more than others; here a track sends all of them alike',
      );
    for (const zone of zones) {
      if (found.length >= MOST_ZONES) break;
      found.push({ ...zone, instrument: name, words: [{ kind: 'preset', text: name }] });
    }
  }
  return { found, unsupported: [...told.values()] };
}

type Values = Map<number, number>;
type Note = (opcode: string, reason: string) => void;

function zonesOfPreset(
  preset: Sf2Bundle,
  font: SoundFont,
  note: Note,
): Pick<FoundZone, 'zone' | 'sample' | 'rate' | 'hallSend'>[] {
  const out: Pick<FoundZone, 'zone' | 'sample' | 'rate' | 'hallSend'>[] = [];
  for (const { zone: presetZone, values: added } of withGlobal(preset, G.instrument)) {
    const instrument = font.instruments[added.get(G.instrument) ?? -1];
    if (!instrument) continue;
    for (const { zone, values } of withGlobal(instrument, G.sample)) {
      const merged = merge(values, added);
      if (!merged) continue;
      const sampleIndex = values.get(G.sample) ?? -1;
      const sample = font.samples[sampleIndex];
      if (!sample || sample.end <= sample.start) {
        note('sample', 'a sample in the memory of a device, or empty, is left out');
        continue;
      }
      const hallSend = clamp((merged.get(G.reverbSend) ?? 0) / 1000, 0, 1);
      const modulators = effectiveModulators(zone.modulators, presetZone.modulators);
      out.push({
        zone: zoneFrom(merged, sample, modulators, note),
        sample: `sample ${sampleIndex}`,
        rate: sample.rate,
        ...(hallSend > 0 ? { hallSend } : {}),
      });
    }
  }
  return out;
}

/** Local zones with the global one's values beneath theirs. @param link generator that makes a zone local */
function withGlobal(bundle: Sf2Bundle, link: number): { zone: Sf2Zone; values: Values }[] {
  const valuesOf = (generators: readonly Sf2Generator[]): Values =>
    new Map(generators.map((g) => [g.operator, g.amount]));
  const [first] = bundle.zones;
  const global = first && !first.generators.some((g) => g.operator === link) ? first : undefined;
  return bundle.zones
    .filter((zone) => zone !== global && zone.generators.some((g) => g.operator === link))
    .map((zone) => ({
      zone: { ...zone, modulators: [...zone.modulators, ...(global?.modulators ?? [])] },
      values: new Map([...valuesOf(global?.generators ?? []), ...valuesOf(zone.generators)]),
    }));
}

/** An instrument zone with what the preset adds; undefined where their ranges do not meet. */
function merge(values: Values, added: Values): Values | undefined {
  const out: Values = new Map(values);
  for (const [operator, amount] of added) {
    if (operator === G.instrument || INSTRUMENT_ONLY.has(operator)) continue;
    if (operator === G.keyRange || operator === G.velRange) {
      const own = rangeOf(out.get(operator));
      const other = rangeOf(amount);
      const low = Math.max(own.low, other.low);
      const high = Math.min(own.high, other.high);
      if (high < low) return undefined;
      out.set(operator, low | (high << 8));
    } else out.set(operator, (out.get(operator) ?? DEFAULTS[operator] ?? 0) + amount);
  }
  return out;
}

function rangeOf(amount: number | undefined): { low: number; high: number } {
  if (amount === undefined) return { low: 0, high: 127 };
  const word = amount & 0xffff;
  return { low: Math.min(127, word & 0xff), high: Math.min(127, word >> 8) };
}

function zoneFrom(
  values: Values,
  sample: SoundFont['samples'][number],
  modulators: readonly Sf2Modulator[],
  note: Note,
): FoundZone['zone'] {
  const get = (operator: number) => values.get(operator) ?? DEFAULTS[operator] ?? 0;
  const keys = rangeOf(values.get(G.keyRange));
  const velocities = rangeOf(values.get(G.velRange));
  const frames = sample.end - sample.start;
  const startFrame = clamp(get(G.startOffset) + 32768 * get(G.startCoarse), 0, frames - 1);
  const endFrame = clamp(frames + get(G.endOffset) + 32768 * get(G.endCoarse), startFrame + 1, frames);
  const mode = get(G.loopMode) & 3;
  const loopStart = sample.loopStart + get(G.loopStartOffset) + 32768 * get(G.loopStartCoarse);
  const loopEnd = sample.loopEnd + get(G.loopEndOffset) + 32768 * get(G.loopEndCoarse);
  const looped = (mode === 1 || mode === 3) && loopStart >= 0 && loopEnd > loopStart && loopEnd <= frames;
  if ((mode === 1 || mode === 3) && !looped)
    note('loop', 'a loop that reaches outside its sample is left out');
  const root = get(G.rootKey) >= 0 ? get(G.rootKey) : sample.rootKey;
  if (get(G.key) >= 0) note('keynum', 'a fixed key is played as sounds without pitch tracking');
  const keyTrack = get(G.key) >= 0 ? 0 : get(G.scaleTuning);
  const pan = clamp(get(G.pan) / 500, -1, 1);
  const cutoffHz = clamp(absoluteCents(get(G.cutoff)), 20, 24000);
  const filtered = cutoffHz < 19900 || get(G.modEnvToCutoff) !== 0 || get(G.modLfoToCutoff) !== 0;
  const { modulations, velocityTrack, vibratoCents } = modulatedBy(modulators, filtered, note);
  if (get(G.chorusSend) > 0) note('chorus send', 'there is no chorus here; the sound is played without it');
  const exclusive = get(G.exclusive);
  const sustainDb = clamp(get(G.volEnvSustain) / 10, 0, 144);
  const moves = movesFrom(get);
  const lfos = lfosFrom(get, vibratoCents);
  return {
    role: 'attack',
    keyLow: keys.low,
    keyHigh: keys.high,
    rootKey: root,
    ...(keyTrack === 100 ? {} : { keyTrack }),
    velocityLow: Math.max(1, velocities.low),
    velocityHigh: Math.max(1, velocities.high),
    fades: [],
    modulations,
    take: 0,
    takes: 1,
    tuneCents: get(G.coarseTune) * 100 + get(G.fineTune) + sample.tuneCents,
    gainDb: -round((get(G.attenuation) / 10) * ATTENUATION_SHARE),
    ...(pan === 0 ? {} : { pan }),
    velocityTrack,
    startFrame,
    ...(endFrame < frames ? { endFrame } : {}),
    ...(looped
      ? { loop: { start: loopStart, end: loopEnd, ...(mode === 3 ? { untilRelease: true } : {}) } }
      : {}),
    oneShot: false,
    envelope: {
      ...(timecents(get(G.volEnvDelay)) > 0 ? { delaySeconds: round(timecents(get(G.volEnvDelay))) } : {}),
      attackSeconds: round(timecents(get(G.volEnvAttack))),
      holdSeconds: round(timecents(get(G.volEnvHold))),
      // The file gives the time of a fall by 100 dB; ours is the time to the sustain.
      decaySeconds: round(timecents(get(G.volEnvDecay)) * Math.min(1, sustainDb / 100)),
      sustain: sustainDb >= 96 ? 0 : round(10 ** (-sustainDb / 20)),
      releaseSeconds: round(Math.max(0.01, timecents(get(G.volEnvRelease)) * (RELEASE_DB / 100))),
      releaseDb: RELEASE_DB,
    },
    ...(moves.length > 0 ? { moves } : {}),
    ...(lfos.length > 0 ? { lfos } : {}),
    ...(filtered ? { cutoffHz: round(cutoffHz), resonanceDb: clamp(get(G.resonance) / 10, 0, 40) } : {}),
    ...(exclusive > 0 ? { group: exclusive, offBy: exclusive } : {}),
  };
}

const round = (value: number) => Math.round(value * 1e6) / 1e6;

function movesFrom(get: (operator: number) => number): ShapedMove[] {
  const envelope = {
    delaySeconds: round(timecents(get(G.modEnvDelay))),
    attackSeconds: round(timecents(get(G.modEnvAttack))),
    holdSeconds: round(timecents(get(G.modEnvHold))),
    decaySeconds: round(timecents(get(G.modEnvDecay)) * clamp(get(G.modEnvSustain) / 1000, 0, 1)),
    sustain: round(1 - clamp(get(G.modEnvSustain) / 1000, 0, 1)),
    releaseSeconds: round(timecents(get(G.modEnvRelease))),
  };
  const moves: ShapedMove[] = [];
  if (get(G.modEnvToCutoff) !== 0)
    moves.push({ ...envelope, target: 'cutoffCents', depth: get(G.modEnvToCutoff) });
  if (get(G.modEnvToPitch) !== 0)
    moves.push({ ...envelope, target: 'tuneCents', depth: get(G.modEnvToPitch) });
  return moves;
}

/** In Farlo vibrato has a controller of its own, which rests in the middle: there the file's own depth holds. */
const VIBRATO_FROM = 64;

function lfosFrom(get: (operator: number) => number, vibratoCents: number): Lfo[] {
  const slow = {
    hertz: round(absoluteCents(get(G.modLfoFrequency))),
    delaySeconds: round(timecents(get(G.modLfoDelay))),
    fadeSeconds: 0,
  };
  const lfos: Lfo[] = [];
  const add = (target: Lfo['target'], depth: number) => depth !== 0 && lfos.push({ target, depth, ...slow });
  add('gainDb', get(G.modLfoToVolume) / 10);
  add('cutoffCents', get(G.modLfoToCutoff));
  add('tuneCents', get(G.modLfoToPitch));
  lfos.push({
    target: 'tuneCents',
    depth: get(G.vibLfoToPitch),
    hertz: round(absoluteCents(get(G.vibLfoFrequency))),
    delaySeconds: round(timecents(get(G.vibLfoDelay))),
    fadeSeconds: 0,
    controller: CONTROLLER.vibrato,
    controllerDepth: vibratoCents,
    controllerFrom: VIBRATO_FROM,
  });
  return lfos;
}
