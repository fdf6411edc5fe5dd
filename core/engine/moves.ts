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
    default:
      return x;
  }
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
  const depth = lfo.depth + ((lfo.controllerDepth ?? 0) * value) / 127;
  const grown = lfo.fadeSeconds > 0 ? Math.min(1, since / lfo.fadeSeconds) : 1;
  return depth * grown * sin(2 * Math.PI * lfo.hertz * since);
}
