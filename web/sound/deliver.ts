import type { BounceFigures, BounceOrder } from '#core/deliver/index.ts';
import { toEvents, planEndSeconds } from '#core/performance/index.ts';
import { sortEvents, type EngineEvent } from '#core/engine/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { itemOf, useDocuments } from '../state/documents.ts';
import type { BounceAnswer, BounceRequest } from './bounce.worker.ts';
import { soundHost } from './host.ts';
import { holdRecordings, useInstruments } from './instruments.ts';
import { AS_WRITTEN, soundOf } from './mixes.ts';
import { shareRoom, takeRoomBack } from './page-memory.ts';
import { usePerformance } from './performance-state.ts';
import { cueOf, orderedTracks, tempoOf } from '../state/cue.ts';

/** Room that a track takes in the engine with eight positions, some of them delayed. */
const TRACK_BYTES = 2 ** 18;

/** Silence in front of the first beat, so that leads reaching before it are heard whole. */
export const PRE_ROLL_SECONDS = 1;

/**
 * The open cue as an order for the engine: what is planned now, with a second of pre-roll.
 * @param asHeard with what this person mutes and hears alone; otherwise as the template says
 */
export function bounceOrder(preRollSeconds = PRE_ROLL_SECONDS, asHeard = false): BounceOrder {
  const { records, cueId, templateId } = useDocuments.getState();
  const { plans } = usePerformance.getState();
  const { loads } = useInstruments.getState();
  const tracks = orderedTracks(records);
  const events: EngineEvent[] = [];
  let end = 0;
  tracks.forEach((track, i) => {
    const plan = plans[track.id];
    if (!plan) return;
    for (const event of toEvents(plan, i, -preRollSeconds)) events.push(event);
    end = Math.max(end, planEndSeconds(plan));
  });
  const cue = cueOf(records, cueId);
  const template = itemOf(records, 'template', templateId);
  const cueEnd = cue ? tempoOf(records).toSeconds(cue.endTick) : 0;
  const sounds = tracks.map((track) => soundOf(records, track, asHeard ? undefined : AS_WRITTEN));
  const used = new Set(sounds.map((sound) => sound.instrumentId));
  return {
    instruments: Object.values(loads)
      .filter(({ instrument }) => used.has(instrument.id))
      .map(({ instrument, audio }) => ({ instrument, audio })),
    tracks: sounds.map(({ instrumentId, mix }) => ({ instrumentId, mix })),
    hall: soundHost.hall,
    hallMix: { earlyDb: template?.hallEarlyDb ?? 0, tailDb: template?.hallTailDb ?? 0 },
    events: sortEvents(events),
    endFrame: Math.ceil((preRollSeconds + Math.max(end, cueEnd)) * ENGINE_RATE),
  };
}

/** A bounce under way; `cancel` ends it and nothing is kept. */
export interface RunningBounce {
  result: Promise<{ file: Blob; figures: BounceFigures } | undefined>;
  cancel(): void;
}

/** Bounces an order in a worker of its own. */
export function startBounce(
  order: BounceOrder,
  format: BounceRequest['format'],
  progress: (share: number) => void,
): RunningBounce {
  const shared = shareRoom(order.tracks.length * TRACK_BYTES);
  const letGo = holdRecordings();
  const worker = new Worker(new URL('./bounce.worker.ts', import.meta.url), { type: 'module' });
  let cancel: () => void = () => undefined;
  const result = new Promise<{ file: Blob; figures: BounceFigures } | undefined>((resolve, reject) => {
    cancel = () => resolve(undefined);
    worker.onmessage = ({ data }: MessageEvent<BounceAnswer>) => {
      if (data.kind === 'progress') progress(data.share);
      else if (data.kind === 'done') resolve(data);
      else reject(new Error(data.message));
    };
    worker.onerror = (event) => reject(new Error(event.message));
    worker.postMessage({ order, format, shared } satisfies BounceRequest);
  }).finally(() => {
    worker.terminate();
    letGo();
    takeRoomBack(shared);
  });
  return { result, cancel };
}
