import { SOURCE, type Curve, type Modulation } from '../catalogue/index.ts';
import { CONTROLLER } from '../music/index.ts';
import type { Sf2Modulator } from './sf2.ts';

/** Generators that modulators go to (section 8.1.2 of the SoundFont 2.04 specification). */
const TARGET = {
  vibratoPitch: 6,
  cutoff: 8,
  resonance: 9,
  chorusSend: 15,
  reverbSend: 16,
  pan: 17,
  attenuation: 48,
  coarseTune: 51,
  fineTune: 52,
} as const;

/** Sources that are no MIDI controllers (section 8.2.1). */
const PALETTE = { velocity: 2, key: 3, channelPressure: 13, pitchWheel: 14 } as const;

/** A source, packed: its number, whether it is a controller, its direction, its polarity, its curve. */
const source = (index: number, isController: boolean, falls: boolean, bipolar: boolean, type: number) =>
  index | (isController ? 0x80 : 0) | (falls ? 0x100 : 0) | (bipolar ? 0x200 : 0) | (type << 10);
const CURVES = { linear: 0, concave: 1, convex: 2, switch: 3 } as const;

/** Velocity to attenuation, by which velocity makes louder. */
const VELOCITY_LEVEL = source(PALETTE.velocity, false, true, false, CURVES.concave);
const SQUARE_LAW = 960;

/** Modulators every voice has unless the file says otherwise (section 8.4). */
const STANDARD: readonly Sf2Modulator[] = [
  { source: VELOCITY_LEVEL, target: TARGET.attenuation, amount: SQUARE_LAW },
  {
    source: source(PALETTE.velocity, false, true, false, CURVES.linear),
    target: TARGET.cutoff,
    amount: -2400,
  },
  {
    source: source(PALETTE.channelPressure, false, false, false, CURVES.linear),
    target: TARGET.vibratoPitch,
    amount: 50,
  },
  {
    source: source(CONTROLLER.dynamics, true, false, false, CURVES.linear),
    target: TARGET.vibratoPitch,
    amount: 50,
  },
  {
    source: source(CONTROLLER.volume, true, true, false, CURVES.concave),
    target: TARGET.attenuation,
    amount: 960,
  },
  { source: source(CONTROLLER.pan, true, false, true, CURVES.linear), target: TARGET.pan, amount: 1000 },
  {
    source: source(CONTROLLER.expression, true, true, false, CURVES.concave),
    target: TARGET.attenuation,
    amount: 960,
  },
  {
    source: source(CONTROLLER.reverbSend, true, false, false, CURVES.linear),
    target: TARGET.reverbSend,
    amount: 200,
  },
  { source: source(93, true, false, false, CURVES.linear), target: TARGET.chorusSend, amount: 200 },
  {
    source: source(PALETTE.pitchWheel, false, false, true, CURVES.linear),
    target: TARGET.fineTune,
    amount: 12_700,
    amountSource: source(16, false, false, false, CURVES.linear),
  },
].map((one) => ({ amountSource: 0, ...one }));

/** Standard ones that the engine plays itself or leaves to the house: its rulers, its hall, its bend. */
const OF_THE_HOUSE = new Set(STANDARD.slice(4).map(nameOf));
/** Pressure is no source here; what the standard says of it is told only where the file changes it. */
const PRESSURE = nameOf(STANDARD[2]);

/** Modulators are the same where their sources and target are (section 9.5.1): the nearer one counts. */
function nameOf({ source: from, target, amountSource }: Sf2Modulator): string {
  return `${from} ${target} ${amountSource}`;
}

/**
 * Modulators as they hold for a zone of an instrument, within a zone of a preset: the standard ones, those of the instrument in their
 * place, and what the preset adds.
 * @param instrument, preset its own, the nearest first
 */
export function effectiveModulators(
  instrument: readonly Sf2Modulator[],
  preset: readonly Sf2Modulator[],
): Sf2Modulator[] {
  const out = new Map(STANDARD.map((one) => [nameOf(one), one]));
  for (const one of nearest(instrument)) out.set(nameOf(one), one);
  for (const one of nearest(preset)) {
    const name = nameOf(one);
    out.set(name, { ...one, amount: (out.get(name)?.amount ?? 0) + one.amount });
  }
  return [...out.values()];
}

/** Of several that are the same, the first. */
function nearest(list: readonly Sf2Modulator[]): Sf2Modulator[] {
  const out = new Map<string, Sf2Modulator>();
  for (const one of list) if (!out.has(nameOf(one))) out.set(nameOf(one), one);
  return [...out.values()];
}

/** Where a modulator's amount goes, and in which unit per centibel, cent or tenth. */
const MODULATED: Record<number, { target: Modulation['target']; scale: number }> = {
  [TARGET.attenuation]: { target: 'gainDb', scale: -0.1 },
  [TARGET.cutoff]: { target: 'cutoffCents', scale: 1 },
  [TARGET.resonance]: { target: 'resonanceDb', scale: 0.1 },
  [TARGET.pan]: { target: 'pan', scale: 1 / 500 },
  [TARGET.fineTune]: { target: 'tuneCents', scale: 1 },
  [TARGET.coarseTune]: { target: 'tuneCents', scale: 100 },
};

/** What modulators come to in Farlo. */
export interface Modulated {
  modulations: Modulation[];
  /** How far velocity sets the level by the square law, 0 … 1. */
  velocityTrack: number;
  /** Cents of vibrato at the top of its controller. */
  vibratoCents: number;
}

/** @param note told of what changes nothing here; @param filtered whether there is a filter to be moved */
export function modulatedBy(
  modulators: readonly Sf2Modulator[],
  filtered: boolean,
  note: (opcode: string, reason: string) => void,
): Modulated {
  const standard = new Map(STANDARD.map((one) => [nameOf(one), one.amount]));
  const out: Modulated = { modulations: [], velocityTrack: 0, vibratoCents: 0 };
  for (const modulator of modulators) {
    const { amount, target } = modulator;
    const name = nameOf(modulator);
    const isStandard = standard.get(name) === amount;
    // The track's own balance is no controller: one that the file gives a reach of its own moves the sound.
    const isHouse = OF_THE_HOUSE.has(name) && target !== TARGET.pan;
    if (isStandard && (OF_THE_HOUSE.has(name) || name === PRESSURE)) continue;
    const index = modulator.source & 0x7f;
    const isController = (modulator.source & 0x80) !== 0;
    if (target === TARGET.vibratoPitch && isController && index === CONTROLLER.dynamics) {
      out.vibratoCents += amount;
      continue;
    }
    if (amount === 0) {
      if (OF_THE_HOUSE.has(name))
        note(`modulator ${index} → ${target}`, 'the file switches it off; here it belongs to the house');
      continue;
    }
    if (modulator.source === VELOCITY_LEVEL && target === TARGET.attenuation && amount === SQUARE_LAW) {
      out.velocityTrack = 1;
      continue;
    }
    const to = MODULATED[target];
    const controller = sourceOf(index, isController);
    if (!to || controller === undefined || modulator.amountSource !== 0 || isHouse) {
      note(`modulator ${index} → ${target}`, 'not supported; it changes nothing here');
      continue;
    }
    if (to.target === 'cutoffCents' && !filtered) continue;
    const curve = curveOf(modulator.source);
    if (curve === undefined) note(`modulator ${index} → ${target}`, 'its curve is played as a straight line');
    out.modulations.push({
      controller,
      target: to.target,
      depth: Math.round(amount * to.scale * 1e6) / 1e6,
      ...((curve ?? straightOf(modulator.source)) === 'rise'
        ? {}
        : { curve: curve ?? straightOf(modulator.source) }),
    });
  }
  return out;
}

function sourceOf(index: number, isController: boolean): number | undefined {
  if (isController) return index;
  if (index === PALETTE.velocity) return SOURCE.velocity;
  return index === PALETTE.key ? SOURCE.key : undefined;
}

function straightOf(packed: number): Curve {
  const falls = (packed & 0x100) !== 0;
  if ((packed & 0x200) !== 0) return falls ? 'bipolarFall' : 'bipolar';
  return falls ? 'fall' : 'rise';
}

/** The curve of a source; undefined for bent ones that go from −1 to 1. */
function curveOf(packed: number): Curve | undefined {
  const type = packed >> 10;
  if (type === CURVES.linear) return straightOf(packed);
  if ((packed & 0x200) !== 0) return undefined;
  const falls = (packed & 0x100) !== 0;
  if (type === CURVES.concave) return falls ? 'concaveFall' : 'concave';
  if (type === CURVES.convex) return falls ? 'convexFall' : 'convex';
  return type === CURVES.switch ? (falls ? 'switchFall' : 'switch') : undefined;
}
