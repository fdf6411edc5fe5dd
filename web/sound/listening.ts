import { create } from 'zustand';
import { ENGINE_RATE } from '#core/units/index.ts';
import { soundHost } from './host.ts';
import { usePerformance } from './performance-state.ts';
import { stop } from './transport.ts';
import { heldRendering, offerToEngine, prepareRendering, rendering, type RenderOrder } from './renderings.ts';
import type { Rendered } from './render.worker.ts';

interface ListeningState {
  /** Rendering that sounds, by name. */
  sounding: string | undefined;
  /** Rendering that was asked for and is not there yet. */
  waiting: string | undefined;
  /** Why the last one could not be heard. */
  trouble: { name: string; sentence: string } | undefined;
}

/** What is listened to: one of several renderings, between which the engine goes over without a gap. */
export const useListening = create<ListeningState>(() => ({
  sounding: undefined,
  waiting: undefined,
  trouble: undefined,
}));

const URGENT = 0;
const SOON = 1;

/** How a set of renderings is heard. */
export interface HearOptions {
  matched: boolean;
  repeat?: boolean;
  /** Frame to begin at when nothing of the set sounds yet. */
  place?: number;
  /** Called when it has come to its end by itself. */
  onEnd?: () => void;
}

/** A sound that lies among the renderings without having been rendered, for example a passage of a recording. */
export interface HeldSound {
  name: string;
  held: true;
}

let ticket = 0;
/** Names of the set that sounds. */
let current: readonly string[] = [];
let onEnd: (() => void) | undefined;
/** Whether the engine has told that it plays what was asked for. */
let heard = false;
let reported = { place: 0, at: 0 };

/**
 * Plays one of a set of orders. While another of the same set sounds, the engine goes over to this one at the same place;
 * what sounds goes on until this one is there.
 */
export async function hear(
  set: readonly (RenderOrder | HeldSound)[],
  index: number,
  options: HearOptions,
): Promise<void> {
  const order = set[index];
  if (!order) return;
  const mine = ++ticket;
  const names = set.map((one) => one.name);
  useListening.setState({ waiting: order.name, trouble: undefined });
  try {
    // Sound must be woken by the press itself, not when the rendering is there.
    const [, rendered] = await Promise.all([soundHost.wake(), soundOf(order)]);
    if (mine !== ticket || rendered.left.length === 0) return;
    if (usePerformance.getState().playing) stop();
    offerToEngine(names, options.matched);
    onEnd = options.onEnd;
    const { sounding } = useListening.getState();
    const sameSet = current.length === names.length && current.every((name, i) => name === names[i]);
    current = names;
    if (sounding !== undefined && sameSet) soundHost.changeRendering(order.name);
    else {
      heard = false;
      reported = { place: options.place ?? 0, at: performance.now() };
      await soundHost.hear(order.name, options.place ?? 0, options.repeat ?? false);
    }
    useListening.setState({ sounding: order.name, waiting: undefined });
    for (const other of set) if (!('held' in other)) prepareRendering(other, SOON);
  } catch (error) {
    if (mine !== ticket) return;
    const sentence = soundHost.trouble ?? (error as Error).message;
    useListening.setState({ waiting: undefined, trouble: { name: order.name, sentence } });
  }
}

function soundOf(order: RenderOrder | HeldSound): Promise<Rendered> {
  if (!('held' in order)) return rendering(order, URGENT);
  const held = heldRendering(order.name);
  return held ? Promise.resolve(held) : Promise.reject(new Error('This passage was let go. Compare again.'));
}

/** Ends what is listened to. @returns the frame it had come to */
export function stopListening(): number {
  ticket++;
  const place = listeningPlace();
  soundHost.quiet();
  onEnd = undefined;
  current = [];
  useListening.setState({ sounding: undefined, waiting: undefined });
  return place;
}

/** Frames from the beginning of the rendering that sounds; for animation frames. */
export function listeningPlace(): number {
  if (useListening.getState().sounding === undefined) return 0;
  return reported.place + ((performance.now() - reported.at) / 1000) * ENGINE_RATE;
}

soundHost.listen((state) => {
  if (useListening.getState().sounding === undefined) return;
  if (state.hearing) {
    heard = true;
    reported = { place: state.place, at: performance.now() };
    return;
  }
  if (!heard) return;
  // Its end, or the cue was started.
  heard = false;
  const ended = onEnd;
  current = [];
  onEnd = undefined;
  useListening.setState({ sounding: undefined });
  if (!usePerformance.getState().playing) ended?.();
});
