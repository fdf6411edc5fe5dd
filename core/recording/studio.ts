import { Random } from '../dsp/index.ts';
import { ENGINE_RATE, midiToHertz } from '../units/index.ts';
import { MOVE_HELD, RELEASE_AT } from './gestures.ts';
import type { HallModel, MicPair } from '../rooms/index.ts';
import {
  type InstrumentPlan,
  type LayerPlan,
  type Radiate,
  type TakeOrder,
  type TechniquePlan,
} from './plan.ts';
import { play, type Player } from './players.ts';
import { Session } from './session.ts';
import { toneWave, type Tone } from './tones.ts';

/** One position of a finished take: two channels, ready for 16 bits. */
export interface RecordedPosition {
  left: Float32Array;
  right: Float32Array;
}

/** Level of tape against the players' own units. */
const TAPE = 0.05;
const BLEND_SECONDS = 0.3;
const RELEASE_KEPT = 0.6;
const FADE_SECONDS = 0.18;
/** Moves keep the new tone up to here, so that it can be handed over. */
const MOVE_FADE_SECONDS = 0.1;

/** Layer, length and what is thrown away at the front of an order. */
export function termsOf(
  technique: TechniquePlan,
  order: TakeOrder,
): { layer: LayerPlan; skipSeconds: number; keptSeconds: number } {
  const { notes, releases, moves } = technique;
  switch (order.slot) {
    case 'release':
      if (!releases) break;
      return { layer: releases.layer, skipSeconds: RELEASE_AT, keptSeconds: RELEASE_KEPT };
    case 'move':
      if (!moves) break;
      return {
        layer: moves.layer,
        skipSeconds: MOVE_HELD,
        keptSeconds: moves.beforeSeconds + moves.afterSeconds,
      };
    default:
      if (!notes) break;
      return { layer: notes.layers[order.layer], skipSeconds: 0, keptSeconds: notes.seconds };
  }
  throw new Error(`${technique.id} has no ${order.slot}`);
}

/** Sound of players of one tone: waves by their force, gestures by the technique. */
export function radiateTone(players: readonly Player[], toneOf: (order: TakeOrder) => Tone): Radiate {
  return (order, technique) => {
    const { layer } = termsOf(technique, order);
    const pitch = midiToHertz(order.root);
    const plan =
      order.slot === 'note'
        ? technique.notes
        : order.slot === 'release'
          ? technique.releases
          : technique.moves;
    const tone = toneOf(order);
    return players.map((player, i) => {
      // Layers that are blended are played alike, one over the other: else their waves would fight while both sound.
      const layerOf = technique.notes?.control === 'dynamics' ? 0 : order.layer;
      const label = `${order.technique} ${order.slot} ${order.root} ${layerOf} ${order.take} ${order.interval}`;
      let sum: Float32Array | undefined;
      plan?.perform(order, layer, i).forEach(({ force, gesture }, s) => {
        const wave = toneWave(player, tone, pitch, force, technique.colour);
        const sound = play(player, wave, pitch, gesture, s === 0 ? label : `${label} strand ${s}`);
        if (!sum) sum = sound;
        else for (let f = 0; f < sum.length; f++) sum[f] += sound[f];
      });
      return sum ?? new Float32Array(1);
    });
  };
}

const sessions = new WeakMap<InstrumentPlan, Session>();

/** Records one order from all positions at once. Deterministic; allocates. */
export function recordTake(
  instrument: InstrumentPlan,
  hall: HallModel,
  order: TakeOrder,
): Map<string, RecordedPosition> {
  const technique = instrument.techniques.find(({ id }) => id === order.technique);
  if (!technique) throw new Error(`${instrument.name} has no ${order.technique}`);
  let session = sessions.get(instrument);
  if (!session || session.hall !== hall)
    sessions.set(instrument, (session = new Session(hall, instrument.players)));
  const { layer, skipSeconds, keptSeconds } = termsOf(technique, order);
  const tape = TAPE * 10 ** ((layer.tapeDb + instrument.inputDb) / 20);
  const played = instrument.radiate(order, technique);
  for (const sound of played) for (let f = 0; f < sound.length; f++) sound[f] *= tape;
  const skip = Math.round(skipSeconds * ENGINE_RATE);
  const takes = session.record(played, skip + Math.round(keptSeconds * ENGINE_RATE));
  const loop = order.slot === 'note' ? loopFrames(technique) : undefined;
  const finished = new Map<string, RecordedPosition>();
  for (const mic of hall.mics) {
    const take = takes.get(mic.id);
    if (!take) continue;
    const hiss = new Random(`${instrument.slug} ${mic.id} ${order.technique} ${order.root} ${order.take}`);
    const fadeSeconds = order.slot === 'move' ? MOVE_FADE_SECONDS : FADE_SECONDS;
    const channel = (sound: Float32Array) => withHiss(finish(sound, skip, loop, fadeSeconds), mic, hiss);
    finished.set(mic.id, { left: channel(take.left), right: channel(take.right) });
  }
  return finished;
}

/** Loop of a technique in frames. */
export function loopFrames(technique: TechniquePlan): { start: number; end: number } | undefined {
  const seconds = technique.notes?.loopSeconds;
  if (!seconds) return undefined;
  const frame = (time: number) => Math.round(time * ENGINE_RATE);
  return { start: frame(seconds[0]), end: frame(seconds[1]) };
}

/** Adds the hiss of a position's amplifier, at the level the position names. */
function withHiss(sound: Float32Array, { noiseDb }: MicPair, hiss: Random): Float32Array {
  if (noiseDb === undefined) return sound;
  const level = 10 ** (noiseDb / 20) * Math.sqrt(3);
  for (let i = 0; i < sound.length; i++) sound[i] += (hiss.next() * 2 - 1) * level;
  return sound;
}

/** Cuts the front off, blends the loop's seam (equal power) or fades the end. */
function finish(
  sound: Float32Array,
  skip: number,
  loop: { start: number; end: number } | undefined,
  fadeSeconds: number,
): Float32Array {
  const out = sound.slice(skip);
  if (loop) {
    const blend = Math.min(Math.round(BLEND_SECONDS * ENGINE_RATE), loop.start, (loop.end - loop.start) >> 1);
    for (let i = 0; i < blend; i++) {
      const x = (i / blend) * (Math.PI / 2);
      const at = loop.end - blend + i;
      out[at] = Math.cos(x) * out[at] + Math.sin(x) * out[loop.start - blend + i];
    }
    // Frames past the loop are never heard, but interpolation may look at them.
    const kept = out.slice(0, Math.min(out.length, loop.end + 64));
    for (let i = loop.end; i < kept.length; i++) kept[i] = kept[loop.start + i - loop.end];
    return kept;
  }
  const fade = Math.min(out.length, Math.round(fadeSeconds * ENGINE_RATE));
  for (let i = 0; i < fade; i++) out[out.length - 1 - i] *= (i / fade) ** 2;
  return out;
}
