import type { Curve, Envelope, Lfo } from '../catalogue/index.ts';
import { clamp, dbToGain, log10, sin } from '../units/index.ts';

/** Level a decay to silence ends at, in dB. */
const FLOOR_DB = -96;

/** Share of a modulation's depth for a source value 0…127. */
export function curveShare(curve: Curve | undefined, value: number): number {
  const x = clamp(value / 127, 0, 1);
  switch (curve) {
    case 'bipolar':
      return 2 * x - 1;
    case 'fall':
      return 1 - x;
    case 'bipolarFall':
      return 1 - 2 * x;
    case 'square':
      return x * x;
    case 'concave':
      return concave(x);
    case 'concaveFall':
      return concave(1 - x);
    case 'convex':
      return 1 - concave(1 - x);
    case 'convexFall':
      return 1 - concave(x);
    case 'switch':
      return x < 0.5 ? 0 : 1;
    case 'switchFall':
      return x < 0.5 ? 1 : 0;
    default:
      return x;
  }
}

/** Late: −(40 dB / 96 dB) · log10(1 − x), held within 1 (SoundFont 2.04, section 9.5.3). */
function concave(x: number): number {
  if (x <= 0) return 0;
  return x >= 1 ? 1 : Math.min(1, (-40 / 96) * log10(1 - x));
}

/** Volume envelope while the key is held: gain 0…1 at an age in seconds. The decay is straight in decibels. */
export function volumeEnvelope(envelope: Envelope, age: number): number {
  const since = age - (envelope.delaySeconds ?? 0);
  if (since < 0) return 0;
  if (since < envelope.attackSeconds) return since / envelope.attackSeconds;
  const { sustain } = envelope;
  const decaying = since - envelope.attackSeconds - envelope.holdSeconds;
  if (sustain >= 1 || decaying <= 0) return 1;
  const share = envelope.decaySeconds > 0 ? Math.min(1, decaying / envelope.decaySeconds) : 1;
  if (share >= 1) return sustain;
  const endDb = sustain > 0 ? 20 * log10(sustain) : FLOOR_DB;
  return dbToGain(endDb * share);
}

/** Envelope of pitch or filter while the key is held: straight lines, 0…1. */
export function moveEnvelope(envelope: Envelope, age: number): number {
  const since = age - (envelope.delaySeconds ?? 0);
  if (since < 0) return 0;
  if (since < envelope.attackSeconds) return since / envelope.attackSeconds;
  const decaying = since - envelope.attackSeconds - envelope.holdSeconds;
  if (decaying <= 0) return 1;
  const share = envelope.decaySeconds > 0 ? Math.min(1, decaying / envelope.decaySeconds) : 1;
  return 1 + (envelope.sustain - 1) * share;
}

/** What an LFO adds to its target at an age in seconds. @param value of its controller, 0…127 */
export function lfoValue(lfo: Lfo, age: number, value: number): number {
  const since = age - lfo.delaySeconds;
  if (since <= 0) return 0;
  const from = lfo.controllerFrom ?? 0;
  const share = Math.max(0, value - from) / (127 - from);
  const depth = lfo.depth + (lfo.controllerDepth ?? 0) * share;
  const grown = lfo.fadeSeconds > 0 ? Math.min(1, since / lfo.fadeSeconds) : 1;
  return depth * grown * sin(2 * Math.PI * lfo.hertz * since);
}
