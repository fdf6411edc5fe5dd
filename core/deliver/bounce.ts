import { LoudnessMeter, type HallResponse } from '../dsp/index.ts';
import {
  BLOCK,
  Engine,
  ownSoundMemory,
  prepareInstrument,
  type EngineEvent,
  type SampleAudio,
  type SoundMemory,
} from '../engine/index.ts';
import type { Instrument } from '../catalogue/index.ts';
import type { HallMix, TrackMix } from '../mixing/index.ts';
import { ENGINE_RATE } from '../units/index.ts';

/** Everything a bounce needs; nothing in it is changed. */
export interface BounceOrder {
  instruments: { instrument: Instrument; audio: ReadonlyMap<string, SampleAudio> }[];
  tracks: { instrumentId: string | null; mix: TrackMix }[];
  /** The shared hall; null for a bounce without one. */
  hall: HallResponse | null;
  hallMix: HallMix;
  /** In order; frame 0 is the first frame written. */
  events: EngineEvent[];
  /** Frames after which the bounce may end as soon as it is silent. */
  endFrame: number;
}

/** What a finished bounce measured of itself. */
export interface BounceFigures {
  frames: number;
  integratedLufs: number;
  truePeakDb: number;
  /** Voices that had to be given up. */
  stolen: number;
}

/** Silence that ends a bounce: below −100 dBFS for a quarter of a second. */
const SILENT = 1e-5;
const SILENT_FRAMES = ENGINE_RATE / 4;
/** A tail longer than this after the last note is cut. */
const LONGEST_TAIL_FRAMES = ENGINE_RATE * 12;

/** An engine set up for an order, at frame 0. @param sound the memory it works in */
export function engineFor(order: BounceOrder, sound: SoundMemory = ownSoundMemory()): Engine {
  const engine = new Engine(undefined, sound);
  const prepared = new Map(
    order.instruments.map(({ instrument, audio }) => [
      instrument.id,
      prepareInstrument(instrument, audio, sound),
    ]),
  );
  engine.ensureTracks(order.tracks.length);
  order.tracks.forEach(({ instrumentId, mix }, i) => {
    engine.tracks[i].setInstrument(instrumentId === null ? null : (prepared.get(instrumentId) ?? null));
    engine.tracks[i].setMix(mix, ENGINE_RATE);
  });
  engine.setHallMix(order.hallMix);
  if (order.hall) engine.setHall(order.hall);
  engine.reset();
  engine.setEvents(order.events);
  return engine;
}

/**
 * Renders an order block by block until the end and the last tail.
 * @param write takes each stretch of stereo frames; the arrays are used again after it returns
 * @param progress told the share done, 0…1, after each stretch
 * @param sound the memory it works in
 */
export function bounce(
  order: BounceOrder,
  write: (left: Float32Array, right: Float32Array) => void,
  progress: (share: number) => void,
  sound?: SoundMemory,
): BounceFigures {
  const engine = engineFor(order, sound);
  const meter = new LoudnessMeter(ENGINE_RATE, true);
  const stretch = BLOCK * 64;
  const left = new Float32Array(stretch);
  const right = new Float32Array(stretch);
  let silent = 0;
  let frames = 0;
  while (
    !(frames >= order.endFrame && silent >= SILENT_FRAMES) &&
    frames < order.endFrame + LONGEST_TAIL_FRAMES
  ) {
    for (let at = 0; at < stretch; at += BLOCK)
      engine.renderMix(left.subarray(at, at + BLOCK), right.subarray(at, at + BLOCK));
    meter.process(left, right, 0, stretch);
    write(left, right);
    frames += stretch;
    silent = isSilent(left) && isSilent(right) ? silent + stretch : 0;
    progress(Math.min(1, frames / order.endFrame));
  }
  return { frames, integratedLufs: meter.integrated, truePeakDb: meter.truePeakDb, stolen: engine.stolen };
}

function isSilent(block: Float32Array): boolean {
  for (let i = 0; i < block.length; i++) if (block[i] > SILENT || block[i] < -SILENT) return false;
  return true;
}
