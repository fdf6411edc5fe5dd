import { create } from 'zustand';
import { stereoOf, type StereoFigures } from '#core/balance/index.ts';
import type { BounceFigures } from '#core/deliver/index.ts';
import { sortEvents, type EngineEvent } from '#core/engine/index.ts';
import { readWav } from '#core/formats/index.ts';
import { orderedTracks } from '../state/cue.ts';
import { useDocuments } from '../state/documents.ts';
import { bounceOrder, startBounce, type RunningBounce } from './deliver.ts';
import { wantedHall } from './hall.ts';
import { playedIn } from './passage.ts';
import { usePerformance } from './performance-state.ts';

/** What all sections together amount to in the passage, with the hall. */
export interface WholeFigures extends Pick<BounceFigures, 'integratedLufs' | 'truePeakDb'>, StereoFigures {}

interface Whole {
  figures: WholeFigures | undefined;
  passage: readonly [number, number] | undefined;
  /** Whether something was moved since it was measured. */
  hasMoved: boolean;
  trouble: string | undefined;
}

/** The whole as the engine plays it. */
export const useWhole = create<Whole>(() => ({
  figures: undefined,
  passage: undefined,
  hasMoved: false,
  trouble: undefined,
}));

/** It is rendered again when nothing has moved for so long, and nothing plays that it could disturb. */
const REST_MS = 1500;

let running: RunningBounce | undefined;
let timer: ReturnType<typeof setTimeout> | undefined;
/** The cue that was measured, and how many look at what was. */
let cueId: string | undefined;
let watchers = 0;

/** Keeps the figures true while somebody looks at them. @returns what ends that */
export function watchWhole(): () => void {
  watchers++;
  if (useWhole.getState().hasMoved) wholeHasMoved();
  return () => {
    if (--watchers === 0) clearTimeout(timer);
  };
}

/** Says that figures of the whole are not true any more; they are measured again when all rests. */
export function wholeHasMoved(): void {
  const { figures, passage, hasMoved } = useWhole.getState();
  if (!figures || !passage) return;
  clearTimeout(timer);
  if (useDocuments.getState().cueId !== cueId) {
    // They are of another cue.
    useWhole.setState({ figures: undefined, passage: undefined, hasMoved: false });
    return;
  }
  if (!hasMoved) useWhole.setState({ hasMoved: true });
  if (watchers === 0) return;
  timer = setTimeout(() => {
    if (usePerformance.getState().playing) wholeHasMoved();
    else void measureWhole(passage);
  }, REST_MS);
}

/** Renders the passage with all sections and the hall as the template says, and measures it. */
export async function measureWhole(passage: readonly [number, number]): Promise<void> {
  running?.cancel();
  ({ cueId } = useDocuments.getState());
  try {
    await wantedHall();
    const own = startBounce(orderIn(passage), { format: 'f32' }, () => undefined);
    running = own;
    useWhole.setState({ passage, hasMoved: false, trouble: undefined });
    const made = await own.result;
    if (!made) return;
    const { channels } = readWav(new Uint8Array(await made.files[0].file.arrayBuffer()), 'the passage');
    const { integratedLufs, truePeakDb } = made.figures;
    const figures = { integratedLufs, truePeakDb, ...stereoOf([channels[0], channels[1]]) };
    if (running === own) useWhole.setState({ figures });
  } catch (error) {
    useWhole.setState({ trouble: (error as Error).message });
  }
}

/** What is played in a passage, as an order for the engine. */
function orderIn(passage: readonly [number, number]): ReturnType<typeof bounceOrder> {
  const { plans } = usePerformance.getState();
  const events: EngineEvent[] = [];
  let endFrame = 0;
  orderedTracks(useDocuments.getState().records).forEach((track, i) => {
    const plan = plans[track.id];
    if (!plan) return;
    const played = playedIn(plan, i, passage);
    events.push(...played.events);
    endFrame = played.frames;
  });
  return { ...bounceOrder(), events: sortEvents(events), endFrame };
}
