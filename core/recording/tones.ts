import { Random, waveFromHarmonics } from '../dsp/index.ts';
import { WAVE_SIZE, type Player } from './players.ts';
import type { Colour } from './plan.ts';

/** A resonance: centre in hertz, width, height. */
export interface Resonance {
  hz: number;
  width: number;
  height: number;
}

/** What makes an instrument's tone, as a source that brightens with force and the body it sounds through. */
export interface Tone {
  body: readonly Resonance[];
  /** Gain of the body apart from its resonances. */
  floor: number;
  /** Below this the body gives nothing back, hertz. */
  lowestHz: number;
  /** Harmonics fall as 1/n to this power. */
  slope: number;
  /** Corner above which harmonics are rounded off at force 0, and how many times higher it lies at force 1. */
  cornerHz: number;
  rise: number;
  /** Share of the even harmonics (reeds in a cylinder have few). */
  even?: number;
  /** How unlike players' instruments are: spread of the body's resonances. */
  spread?: number;
}

/** The body of a violin; larger strings have the same resonances lower. */
const VIOLIN_BODY: readonly Resonance[] = [
  { hz: 275, width: 60, height: 1.3 },
  { hz: 460, width: 70, height: 1.6 },
  { hz: 550, width: 80, height: 1.4 },
  { hz: 1100, width: 350, height: 0.5 },
  { hz: 2500, width: 900, height: 1.1 },
];

/** A bowed string (harmonics about as 1/n, Helmholtz motion lifted by the bridge) through a body of a size. */
const bowed = (size: number, cornerHz: number): Tone => ({
  body: VIOLIN_BODY.map(({ hz, width, height }) => ({ hz: hz / size, width: width / size, height })),
  floor: 0.55,
  lowestHz: 190 / size,
  slope: 0.7,
  cornerHz,
  rise: 7,
  spread: 0.06,
});

const vowel = (first: number, second: number, third: number, high: number): Tone => ({
  body: [
    { hz: first, width: 90, height: 6 },
    { hz: second, width: 120, height: 3 },
    { hz: third, width: 220, height: 1.4 * high },
    { hz: 3400, width: 400, height: 0.8 * high },
  ],
  floor: 0.12,
  lowestHz: 90,
  slope: 1.15,
  cornerHz: 1800,
  rise: 2.5,
  spread: 0.07,
});

export const TONES = {
  violin: bowed(1, 1300),
  viola: bowed(1.3, 1100),
  cello: bowed(2.4, 850),
  bass: bowed(4.2, 600),
  flute: {
    body: [{ hz: 900, width: 700, height: 0.6 }],
    floor: 0.8,
    lowestHz: 200,
    slope: 1.9,
    cornerHz: 1500,
    rise: 2.4,
  },
  oboe: {
    body: [
      { hz: 1150, width: 280, height: 3 },
      { hz: 2900, width: 600, height: 1.6 },
    ],
    floor: 0.35,
    lowestHz: 200,
    slope: 0.75,
    cornerHz: 2200,
    rise: 2.2,
  },
  clarinet: {
    body: [{ hz: 1500, width: 900, height: 0.7 }],
    floor: 0.7,
    lowestHz: 130,
    slope: 0.95,
    cornerHz: 1300,
    rise: 3,
    even: 0.12,
  },
  bassClarinet: {
    body: [{ hz: 700, width: 500, height: 0.8 }],
    floor: 0.7,
    lowestHz: 60,
    slope: 0.9,
    cornerHz: 800,
    rise: 3,
    even: 0.15,
  },
  bassoon: {
    body: [
      { hz: 480, width: 130, height: 3 },
      { hz: 1150, width: 320, height: 1.1 },
    ],
    floor: 0.35,
    lowestHz: 55,
    slope: 0.8,
    cornerHz: 1100,
    rise: 2.4,
  },
  horn: {
    body: [{ hz: 480, width: 300, height: 1.4 }],
    floor: 0.6,
    lowestHz: 60,
    slope: 0.9,
    cornerHz: 420,
    rise: 8,
  },
  trumpet: {
    body: [{ hz: 1300, width: 700, height: 1.4 }],
    floor: 0.6,
    lowestHz: 160,
    slope: 0.6,
    cornerHz: 1100,
    rise: 6,
  },
  trombone: {
    body: [{ hz: 560, width: 350, height: 1.2 }],
    floor: 0.6,
    lowestHz: 60,
    slope: 0.7,
    cornerHz: 620,
    rise: 8,
  },
  tuba: {
    body: [{ hz: 260, width: 200, height: 1.2 }],
    floor: 0.6,
    lowestHz: 35,
    slope: 1,
    cornerHz: 240,
    rise: 7,
  },
} as const satisfies Record<string, Tone>;

/** First three formants of sung vowels, women's; men's lie about a seventh lower. */
export const VOWELS = {
  ah: vowel(780, 1200, 2750, 1),
  oh: vowel(480, 850, 2650, 0.6),
  oo: vowel(340, 720, 2600, 0.3),
  ee: vowel(310, 2350, 3050, 1.4),
  hum: vowel(260, 900, 2300, 0.08),
} as const;

/** The same tone through a body of another size. */
export function scaled(tone: Tone, by: number): Tone {
  return {
    ...tone,
    body: tone.body.map(({ hz, width, height }) => ({ hz: hz * by, width: width * by, height })),
    lowestHz: tone.lowestHz * by,
  };
}

/**
 * One period of a tone as a player's instrument gives it. Louder is brighter.
 * @param force 0 very soft … 1 very loud
 */
export function toneWave(
  player: Player,
  tone: Tone,
  pitchHz: number,
  force: number,
  colour: Colour = {},
): Float32Array {
  const random = new Random(`${player.seed} wave ${Math.round(pitchHz)}`);
  const spread = tone.spread ?? 0.03;
  const shift = random.between(1 - spread, 1 + spread);
  const cornerHz = tone.cornerHz * tone.rise ** force;
  const count = Math.min(WAVE_SIZE / 2 - 1, Math.floor(17000 / pitchHz), colour.partials ?? Infinity);
  const amplitudes = new Float64Array(Math.max(1, count));
  const phases = new Float64Array(amplitudes.length);
  for (let n = 1; n <= amplitudes.length; n++) {
    const hz = n * pitchHz;
    let level = 10 ** (random.normal() * 0.1) / n ** tone.slope / (1 + (hz / cornerHz) ** 2);
    level *= bodyGain(tone, hz, shift);
    if (n % 2 === 0) level *= tone.even ?? 1;
    if (colour.tiltDb) level *= 10 ** ((colour.tiltDb * Math.max(0, Math.log2(hz / 500))) / 20);
    if (n === 1 && colour.thinDb) level *= 10 ** (-colour.thinDb / 20);
    amplitudes[n - 1] = level;
    phases[n - 1] = random.between(0, 2 * Math.PI);
  }
  return waveFromHarmonics(amplitudes, phases, WAVE_SIZE);
}

function bodyGain(tone: Tone, hz: number, shift: number): number {
  let gain = tone.floor;
  for (const { hz: centre, width, height } of tone.body) {
    const x = (hz - centre * shift) / width;
    gain += height / (1 + x * x);
  }
  return gain * Math.min(1, (hz / tone.lowestHz) ** 2);
}
