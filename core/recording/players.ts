import { Random } from '../dsp/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Point } from '../rooms/index.ts';

/** One invented player: where she sits and how she differs from her neighbours. */
export interface Player {
  seat: Point;
  tuneCents: number;
  lateSeconds: number;
  levelGain: number;
  vibratoHz: number;
  vibratoCents: number;
  vibratoDelaySeconds: number;
  /** Seed of everything that changes from note to note. */
  seed: string;
}

/** How many frames share one control value of pitch and loudness. */
const CONTROL_FRAMES = 64;
/** Points of one period of a wave. */
export const WAVE_SIZE = 2048;

/** Differences between players, wider in sections of strings than among soloists. */
export interface Temper {
  tuneCents?: number;
  vibratoCents?: readonly [number, number];
  vibratoHz?: readonly [number, number];
}

/**
 * Seats players in pairs that recede from a front seat.
 * @param along where the next pair sits against the one before, in metres
 */
export function seatPlayers(
  name: string,
  count: number,
  front: Point,
  along: { x: number; y: number } = { x: -1.15, y: 0.55 },
  temper: Temper = {},
): Player[] {
  const { tuneCents = 7, vibratoCents = [16, 30], vibratoHz = [5.1, 6.3] } = temper;
  return Array.from({ length: count }, (_, i) => {
    const seed = `${name} ${i + 1}`;
    const random = new Random(seed);
    const pair = Math.floor(i / 2);
    return {
      seat: {
        x: front.x + pair * along.x + (i % 2) * 0.35,
        y: front.y + pair * along.y + (i % 2) * 0.85,
        z: front.z,
      },
      tuneCents: random.normal() * tuneCents,
      lateSeconds: Math.max(-0.01, Math.min(0.01, random.normal() * (count > 1 ? 0.004 : 0.001))),
      levelGain: 10 ** ((random.normal() * 0.8) / 20),
      vibratoHz: random.between(vibratoHz[0], vibratoHz[1]),
      vibratoCents: random.between(vibratoCents[0], vibratoCents[1]),
      vibratoDelaySeconds: random.between(0.08, 0.3),
      seed,
    };
  });
}

/** What a player does in one gesture, as functions of seconds since its beginning. */
export interface Gesture {
  seconds: number;
  /** Pitch against the wave's own, in cents. */
  pitchCents: (time: number) => number;
  /** Loudness, 1 = full tone. */
  amplitude: (time: number) => number;
  /** Bow or finger noise, 1 = strong. */
  noise: (time: number) => number;
  /** How much of the player's vibrato is used, 0…1. */
  vibrato: number;
  /** True when the vibrato runs from the first moment. */
  vibratoSet?: boolean;
}

/**
 * Plays a gesture into a mono buffer at the engine's rate: what the instrument radiates, at one metre.
 * @param label distinguishes takes: equal labels give equal sound
 * @returns as many frames as the gesture is long
 */
export function play(
  player: Player,
  wave: Float32Array,
  pitchHz: number,
  gesture: Gesture,
  label: string,
): Float32Array {
  const random = new Random(`${player.seed} ${label}`);
  const frames = Math.ceil(gesture.seconds * ENGINE_RATE);
  const out = new Float32Array(frames);
  const late = player.lateSeconds + random.normal() * 0.0025;
  const tune = player.tuneCents + random.normal() * 2;
  const vibratoHz = player.vibratoHz * (1 + random.normal() * 0.03);
  const vibratoPhase = random.next();
  const flutterHz = random.between(2.5, 4.5);
  const flutterPhase = random.next() * 6.283;
  let drift = 0;
  let phase = random.next() * WAVE_SIZE;
  let noiseLow = 0;
  let noiseBand = 0;
  let increment = 0;
  let amplitude = 0;
  let noise = 0;
  for (let start = 0; start < frames; start += CONTROL_FRAMES) {
    const time = start / ENGINE_RATE - late;
    drift += (random.next() - 0.5) * 2.6 - drift * 0.03;
    const grown = gesture.vibratoSet ? 1 : clamp01((time - player.vibratoDelaySeconds) / 0.35);
    const swing = Math.sin(2 * Math.PI * (vibratoHz * time + vibratoPhase)) * grown * gesture.vibrato;
    const cents = tune + drift + gesture.pitchCents(time) + swing * player.vibratoCents;
    const nextIncrement = (pitchHz * 2 ** (cents / 1200) * WAVE_SIZE) / ENGINE_RATE;
    const flutter = 1 + 0.05 * Math.sin(flutterHz * 6.283 * time + flutterPhase) + 0.06 * swing;
    const nextAmplitude = gesture.amplitude(time) * flutter * player.levelGain;
    const nextNoise = gesture.noise(time) * player.levelGain;
    if (start === 0) [increment, amplitude, noise] = [nextIncrement, nextAmplitude, nextNoise];
    const end = Math.min(frames, start + CONTROL_FRAMES);
    const stepIncrement = (nextIncrement - increment) / CONTROL_FRAMES;
    const stepAmplitude = (nextAmplitude - amplitude) / CONTROL_FRAMES;
    const stepNoise = (nextNoise - noise) / CONTROL_FRAMES;
    const noisy = noise !== 0 || nextNoise !== 0;
    for (let i = start; i < end; i++) {
      increment += stepIncrement;
      amplitude += stepAmplitude;
      noise += stepNoise;
      phase += increment;
      if (phase >= WAVE_SIZE) phase -= WAVE_SIZE;
      const at = phase | 0;
      const a = wave[at];
      let value = (a + (phase - at) * (wave[(at + 1) & (WAVE_SIZE - 1)] - a)) * amplitude;
      if (noisy) {
        const white = random.next() - 0.5;
        noiseLow += 0.5 * (white - noiseLow);
        noiseBand += 0.12 * (noiseLow - noiseBand);
        value += (noiseLow - noiseBand) * noise;
      }
      out[i] = value;
    }
  }
  return out;
}

function clamp01(x: number): number {
  return x < 0 ? 0 : x > 1 ? 1 : x;
}
