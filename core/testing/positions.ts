import FFT from 'fft.js';
import type { Apart, ApartPosition } from '../balance/index.ts';
import { Random } from '../dsp/index.ts';
import { Session } from '../recording/session.ts';
import type { HallModel, Point } from '../rooms/index.ts';

/** Sections recorded from several positions of which everything is known, for what is measured of balances. */

const RATE = 48_000;

/** A line of a solo instrument, made by seed: notes with harmonics, a breath of noise and a soft start; one channel. */
export function played(seed: number, seconds: number): Float32Array {
  const random = new Random(`line ${seed}`);
  const out = new Float32Array(Math.round(seconds * RATE));
  for (let at = 0.05; at < seconds - 0.3;) {
    const length = random.between(0.15, 0.6);
    const hz = 440 * 2 ** (Math.round(random.between(-14, 10)) / 12);
    const from = Math.round(at * RATE);
    const frames = Math.min(out.length - from, Math.round(length * RATE));
    const level = random.between(0.05, 0.2);
    let breath = 0;
    for (let i = 0; i < frames; i++) {
      const t = i / RATE;
      const shape = Math.min(1, t / 0.02) * Math.min(1, (frames - i) / 2400);
      let wave = 0;
      for (let h = 1; h <= 12 && h * hz < 12_000; h++) wave += Math.sin(2 * Math.PI * h * hz * t) / h;
      breath = 0.7 * breath + 0.3 * (random.next() * 2 - 1);
      out[from + i] += level * shape * (wave + 0.25 * breath);
    }
    at += length + random.between(0, 0.08);
  }
  return out;
}

/** One player in a hall, from all its positions. */
export function room(hall: HallModel, seat: Point, sound: Float32Array): Apart {
  const player = { seat } as ConstructorParameters<typeof Session>[1][number];
  const takes = new Session(hall, [player]).record([sound], sound.length);
  return hall.mics.map(({ id }): ApartPosition => ({ id, ...(takes.get(id) ?? never()) }));
}

function never(): never {
  throw new Error('a hall records from each of its positions');
}

/** Positions that hear the same sound later, some turned over, each under hiss of its own; delays in ms, between frames too. */
export function noisy(
  sound: Float32Array,
  delaysMs: readonly number[],
  turned: readonly boolean[],
  hissDb: number,
  seed: number,
): Apart {
  return delaysMs.map((delayMs, i) => {
    const side = (name: string) => {
      const random = new Random(`hiss ${seed} ${i} ${name}`);
      const late = delayMs * 48;
      const [whole, rest] = [Math.floor(late), late % 1];
      const hiss = 10 ** (hissDb / 20) * Math.sqrt(3);
      return Float32Array.from(sound, (_, k) => {
        const heard = (1 - rest) * (sound[k - whole] ?? 0) + rest * (sound[k - whole - 1] ?? 0);
        return (turned[i] ? -1 : 1) * heard + hiss * (random.next() * 2 - 1);
      });
    };
    return { id: 'abcdef'[i], left: side('left'), right: side('right') };
  });
}

/** Exponentially decaying noise of a room, made by seed, of energy 1. */
function tail(seed: string, decaySeconds: number, frames: number): Float32Array {
  const random = new Random(seed);
  const out = Float32Array.from(
    { length: frames },
    (_, i) => random.normal() * 10 ** ((-3 * i) / (decaySeconds * RATE)),
  );
  const energy = out.reduce((sum, v) => sum + v * v, 0);
  return out.map((v) => v / Math.sqrt(energy));
}

/** One position of a section in a room that is made by seed. */
export interface PlannedPosition {
  id: string;
  levelDb: number;
  /** Direct sound against the room. */
  depthDb: number;
  delayMs: number;
  /** −1 left … 1 right, of the direct sound. */
  at: number;
}

const ROOM_SECONDS = 1.2;

/**
 * A sound in a room of 1.2 s, from positions whose direct sound, room, place and delay are known; each side has a room of its own.
 */
export function planned(sound: Float32Array, positions: readonly PlannedPosition[], seed: number): Apart {
  const frames = Math.round(ROOM_SECONDS * RATE);
  return positions.map(({ id, levelDb, depthDb, delayMs, at }) => {
    const gain = 10 ** (levelDb / 20);
    const wet = 10 ** (-depthDb / 20) / Math.SQRT2;
    const late = Math.round(delayMs * 48);
    const angle = ((at + 1) * Math.PI) / 4;
    const side = (name: string, direct: number) => {
      const room = convolved(sound, tail(`${seed} ${id} ${name}`, ROOM_SECONDS, frames));
      return Float32Array.from(
        sound,
        (_, i) => gain * (direct * (sound[i - late] ?? 0) + wet * (room[i - late] ?? 0)),
      );
    };
    return { id, left: side('left', Math.cos(angle)), right: side('right', Math.sin(angle)) };
  });
}

/** Convolution by one large transform. */
function convolved(sound: Float32Array, response: Float32Array): Float32Array {
  let size = 1;
  while (size < sound.length + response.length) size *= 2;
  const fft = new FFT(size);
  const spectrum = (signal: Float32Array) => {
    const input = new Float64Array(2 * size);
    signal.forEach((v, i) => (input[2 * i] = v));
    const out = new Float64Array(2 * size);
    fft.transform(out as unknown as number[], input as unknown as number[]);
    return out;
  };
  const [a, b] = [spectrum(sound), spectrum(response)];
  const product = new Float64Array(2 * size);
  for (let k = 0; k < size; k++) {
    product[2 * k] = a[2 * k] * b[2 * k] - a[2 * k + 1] * b[2 * k + 1];
    product[2 * k + 1] = a[2 * k] * b[2 * k + 1] + a[2 * k + 1] * b[2 * k];
  }
  const time = new Float64Array(2 * size);
  fft.inverseTransform(time as unknown as number[], product as unknown as number[]);
  return Float32Array.from(sound, (_, i) => time[2 * i]);
}

/** Noise that begins at once, is held and let go: steady, so that what is its room is plain. */
export function heldNoise(seed: number, heldSeconds: number, seconds: number): Float32Array {
  const random = new Random(`held ${seed}`);
  return Float32Array.from({ length: Math.round(seconds * RATE) }, (_, i) =>
    i < heldSeconds * RATE ? random.between(-0.1, 0.1) : 0,
  );
}
