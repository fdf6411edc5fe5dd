import FFT from 'fft.js';
import type { Random } from '../../dsp/index.ts';
import type { PlayerWave } from './timbres.ts';

/** A room made by seed: what each of three positions hears of a player, with everything about it known. */
export interface Place {
  id: 'close' | 'tree' | 'far';
  /** Seconds after the players. */
  arrivalSeconds: number;
  /** Power of the direct sound against that of the whole room, of a sound held for ever, in dB. */
  directToRoomDb: number;
}

export interface Stage {
  /** Seconds in which the room falls by 60 dB. */
  decaySeconds: number;
  places: Place[];
  /** What rings along in the room: hertz and seconds; nothing unless planted. */
  ring?: { hertz: number; seconds: number };
}

/** A room by seed, 0.7 … 1.7 s, a near, a middle and a far position. */
export function stageOf(random: Random): Stage {
  const near = random.between(0.002, 0.006);
  const middle = near + random.between(0.006, 0.014);
  return {
    decaySeconds: random.between(0.7, 1.7),
    places: [
      { id: 'close', arrivalSeconds: near, directToRoomDb: random.between(7, 14) },
      { id: 'tree', arrivalSeconds: middle, directToRoomDb: random.between(0, 5) },
      {
        id: 'far',
        arrivalSeconds: middle + random.between(0.006, 0.016),
        directToRoomDb: random.between(-6, -1),
      },
    ],
  };
}

/** The room's tail at a position: both sides by themselves, in power 1 together, and their transforms by size. */
export interface Tail {
  sides: [Float32Array, Float32Array];
  bySize: Map<number, Float64Array>;
}

/** The tail of one position; the same for all that is recorded there. */
export function tailOf({ decaySeconds, ring }: Stage, random: Random, rate: number): Tail {
  const frames = Math.round(1.15 * decaySeconds * rate);
  const sides = [0, 1].map(() => {
    const out = new Float32Array(frames);
    for (let i = 0; i < frames; i++)
      out[i] = (random.between(-1, 1) + random.between(-1, 1)) * 10 ** ((-3 * i) / (rate * decaySeconds));
    return out;
  });
  let power = 0;
  for (const side of sides) for (const value of side) power += value * value;
  const gain = 1 / Math.sqrt(power);
  for (const side of sides) for (let i = 0; i < frames; i++) side[i] *= gain;
  if (ring) {
    const phases = [random.between(0, 6.28), random.between(0, 6.28)];
    sides.forEach((side, c) => {
      for (let i = 0; i < frames; i++)
        side[i] +=
          0.003 *
          Math.sin((2 * Math.PI * ring.hertz * i) / rate + phases[c]) *
          10 ** ((-3 * i) / (rate * ring.seconds));
    });
  }
  return { sides: sides as Tail['sides'], bySize: new Map() };
}

const ffts = new Map<number, FFT>();

/** Transform of a wave, or of a pair as real and imaginary part. */
function transformed(size: number, re: Float32Array, im?: Float32Array): Float64Array {
  const fft = ffts.get(size) ?? new FFT(size);
  ffts.set(size, fft);
  const input = new Float64Array(2 * size);
  for (let i = 0; i < re.length; i++) {
    input[2 * i] = re[i];
    if (im) input[2 * i + 1] = im[i];
  }
  const out = new Float64Array(2 * size);
  fft.transform(out as unknown as number[], input as unknown as number[]);
  return out;
}

/** A take as rooms hear it: all players together, transformed. */
export interface Played {
  players: readonly PlayerWave[];
  size: number;
  spectrum: Float64Array;
}

/** @param tails of all positions */
export function playedFor(players: readonly PlayerWave[], tails: Iterable<Tail>): Played {
  const all = new Float32Array(players[0].wave.length);
  for (const { wave } of players) for (let i = 0; i < wave.length; i++) all[i] += wave[i];
  let size = 1024;
  for (const { sides } of tails) while (size < all.length + sides[0].length) size *= 2;
  return { players, size, spectrum: transformed(size, all) };
}

/** A real wave through a pair of responses, by one transform; real and imaginary part are the two sides. */
function throughRoom({ size, spectrum }: Played, { sides, bySize }: Tail): Float64Array {
  const tail = bySize.get(size) ?? transformed(size, ...sides);
  bySize.set(size, tail);
  const product = new Float64Array(2 * size);
  for (let k = 0; k < size; k++) {
    const [a, b, c, d] = [spectrum[2 * k], spectrum[2 * k + 1], tail[2 * k], tail[2 * k + 1]];
    product[2 * k] = a * c - b * d;
    product[2 * k + 1] = a * d + b * c;
  }
  const out = new Float64Array(2 * size);
  ffts.get(size)?.inverseTransform(out as unknown as number[], product as unknown as number[]);
  return out;
}

/**
 * What a position hears of some players: their direct sound from their places, then the room.
 * @param frames of the recording; @param late frames of silence before the players begin
 */
export function heardAt(
  played: Played,
  place: Place,
  tail: Tail,
  rate: number,
  frames: number,
  late: number,
): [Float32Array, Float32Array] {
  const delay = late + Math.round(place.arrivalSeconds * rate);
  const room = throughRoom(played, tail);
  const share = 10 ** (-place.directToRoomDb / 20);
  const start = delay + Math.round(0.001 * rate);
  return [0, 1].map((c) => {
    const side = new Float32Array(frames);
    for (const { wave, place: pan } of played.players) {
      // Sections spread out before a near pair; both ends of it hear a player within half a millisecond of each other. Together they
      // have the players' power.
      const angle = (Math.PI / 4) * (1 + 0.8 * pan);
      const gain = c === 0 ? Math.cos(angle) : Math.sin(angle);
      const own = delay + Math.round((c === 0 ? pan : -pan) * 0.0002 * rate);
      for (let i = Math.max(0, -own); i < wave.length && i + own < frames; i++)
        side[i + own] += gain * wave[i];
    }
    for (let i = start; i < frames; i++) side[i] += share * (room[2 * (i - start) + c] ?? 0);
    return side;
  }) as [Float32Array, Float32Array];
}
