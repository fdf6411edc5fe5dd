import type { Random } from '../../dsp/index.ts';

/** Dry players of six kinds, put together from partials: nothing here comes from what Farlo measures or records with. */

export const TIMBRES = ['reed', 'horn', 'bowed', 'flute', 'plucked', 'bar'] as const;
export type Timbre = (typeof TIMBRES)[number];

/** Struck and plucked things die away by themselves. */
export const DIES_AWAY: ReadonlySet<Timbre> = new Set(['plucked', 'bar']);

interface Shape {
  /** Frequency of each partial against the first. */
  ratio(number: number): number;
  /** Level in dB of each partial, softest 0 … loudest 1. */
  levelDb(number: number, force: number): number;
  most: number;
  /** Rise to the height, in seconds. */
  rise: number;
  /** Breath, bow or stick against the tone. */
  noise: number;
  /** Players who sound together. */
  players: number;
}

const octaves = (number: number) => Math.log2(number);

const SHAPES: Record<Timbre, Shape> = {
  reed: {
    ratio: (n) => n,
    levelDb: (n, force) => (n % 2 === 0 ? -9 : 0) - (13 - 5 * force) * octaves(n),
    most: 18,
    rise: 0.02,
    noise: 0.01,
    players: 1,
  },
  horn: {
    ratio: (n) => n,
    levelDb: (n, force) => -Math.abs(n - 2) - (14 - 9 * force) * octaves(n),
    most: 18,
    rise: 0.035,
    noise: 0.006,
    players: 1,
  },
  bowed: {
    ratio: (n) => n,
    levelDb: (n, force) => -(8 - 3 * force) * octaves(n),
    most: 22,
    rise: 0.05,
    noise: 0.02,
    players: 5,
  },
  flute: {
    ratio: (n) => n,
    levelDb: (n, force) => -(17 - 6 * force) * octaves(n),
    most: 8,
    rise: 0.03,
    noise: 0.03,
    players: 1,
  },
  plucked: {
    ratio: (n) => n * Math.sqrt(1 + 1e-4 * n * n),
    levelDb: (n, force) => -(11 - 5 * force) * octaves(n),
    most: 14,
    rise: 0.003,
    noise: 0.002,
    players: 1,
  },
  bar: {
    ratio: (n) => [1, 2.756, 5.404, 8.933][n - 1],
    levelDb: (n, force) => -(9 - 4 * force) * (n - 1),
    most: 4,
    rise: 0.002,
    noise: 0.002,
    players: 1,
  },
};

/** One player of a take: the wave, and where it stands, −1 … 1. */
export interface PlayerWave {
  wave: Float32Array;
  place: number;
}

/** A note as it is asked for. */
export interface Note {
  timbre: Timbre;
  hertz: number;
  /** How long it is held; what dies away by itself is damped then. */
  seconds: number;
  /** 0 softest … 1 loudest: brightness alone, the level is set apart. */
  force: number;
  /** In which the tone ends. */
  endSeconds: number;
}

/** How many players a kind has. */
export const playersOf = (timbre: Timbre) => SHAPES[timbre].players;

/**
 * The players of a note at a mean square of 1 while it is held (of its first 0.3 s where it dies away), all together.
 * @param random what makes takes differ: phases, breath, and some cents and milliseconds between players
 * @param tail seconds of silence after it
 */
export function playersOfNote(note: Note, random: Random, rate: number, tail: number): PlayerWave[] {
  const shape = SHAPES[note.timbre];
  const held = Math.round(note.seconds * rate);
  const frames = held + Math.round(tail * rate);
  const players = Array.from({ length: shape.players }, (_, p): PlayerWave => {
    const place = shape.players === 1 ? 0 : (2 * p) / (shape.players - 1) - 1;
    const late = shape.players === 1 ? 0 : random.between(0, 0.004);
    const cents = shape.players === 1 ? 0 : 7 * place + random.between(-1, 1);
    return { place, wave: onePlayer(note, shape, cents, late, random, rate, frames) };
  });
  const first = Math.round((note.seconds < 0.5 ? 0.02 : 0.06) * rate);
  const last = Math.max(
    first + 1,
    DIES_AWAY.has(note.timbre)
      ? Math.min(held, first + Math.round(0.3 * rate))
      : held - Math.round(note.endSeconds * rate),
  );
  let power = 0;
  for (let i = first; i < last; i++) power += players.reduce((sum, { wave }) => sum + wave[i], 0) ** 2;
  const gain = 1 / Math.sqrt(power / (last - first));
  for (const { wave } of players) for (let i = 0; i < frames; i++) wave[i] *= gain;
  return players;
}

function onePlayer(
  { timbre, hertz, seconds, force, endSeconds }: Note,
  shape: Shape,
  cents: number,
  late: number,
  random: Random,
  rate: number,
  frames: number,
): Float32Array {
  const out = new Float32Array(frames);
  const dies = DIES_AWAY.has(timbre);
  const own = hertz * 2 ** (cents / 1200);
  // Short notes are begun with more of a stroke.
  const rise = shape.rise * (1.4 - 0.6 * force) * (seconds < 0.5 ? 0.4 : 1);
  const envelope = Float32Array.from(out, (_, i) => {
    const t = i / rate - late;
    const fall = (seconds - t) / endSeconds;
    return t < 0 ? 0 : Math.min(1, t / rise) * Math.min(1, Math.max(0, fall));
  });
  // No lips, no bow hold a pitch quite still.
  const slow = [0, 1].map(() => ({ hertz: random.between(0.4, 1.3), phase: random.between(0, 6.28) }));
  const wander = (t: number) =>
    dies ? 0 : slow.reduce((sum, one) => sum + 2 * Math.sin(2 * Math.PI * one.hertz * t + one.phase), 0);
  for (let n = 1; n <= shape.most; n++) {
    const frequency = own * shape.ratio(n);
    if (frequency > Math.min(9000, 0.42 * rate)) break;
    const level = 10 ** ((shape.levelDb(n, force) + random.between(-0.4, 0.4)) / 20);
    const phase = random.between(0, 2 * Math.PI);
    let [re, im] = [level * Math.cos(phase), level * Math.sin(phase)];
    let [cos, sin] = [1, 0];
    const perFrame = dies ? Math.exp(-((timbre === 'bar' ? 1.2 : 0.9) * Math.sqrt(n)) / rate) : 1;
    for (let i = 0; i < frames; i++) {
      // Turned on from frame to frame by an angle that wanders with the player.
      if (i % 64 === 0) {
        const angle = ((2 * Math.PI * frequency) / rate) * 2 ** (wander(i / rate) / 1200);
        [cos, sin] = [Math.cos(angle), Math.sin(angle)];
      }
      out[i] += im * envelope[i];
      [re, im] = [(re * cos - im * sin) * perFrame, (re * sin + im * cos) * perFrame];
    }
  }
  let breath = 0;
  for (let i = 0; i < frames; i++) {
    breath = 0.7 * breath + 0.3 * random.between(-1, 1);
    const t = i / rate - late;
    out[i] += 2 * shape.noise * breath * envelope[i] * (dies ? Math.exp(-12 * t) : 1 + 2 * Math.exp(-25 * t));
  }
  return out;
}
