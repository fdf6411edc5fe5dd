import {
  divide,
  playedTracks,
  Stretches,
  type BounceFigures,
  type BounceOrder,
} from '#core/deliver/index.ts';
import { toEvents, planEndSeconds } from '#core/performance/index.ts';
import { sortEvents, type EngineEvent } from '#core/engine/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { itemOf, useDocuments } from '../state/documents.ts';
import {
  WORD,
  type BouncedFile,
  type BounceGroup,
  type MixAnswer,
  type MixRequest,
  type ShareAnswer,
  type ShareRequest,
} from './bounce-protocol.ts';
import { coresWanted } from './cores.ts';
import type { BounceFormat } from './file-writer.ts';
import { removeFolder, type Folder } from './folders.ts';
import { soundHost } from './host.ts';
import { holdRecordings, useInstruments } from './instruments.ts';
import { AS_WRITTEN, soundOf } from './mixes.ts';
import { LAST_STEPS_MS, pageMemory, shareRoom, takeRoomBack, type SharedRoom } from './page-memory.ts';
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

/** What is written of a bounce beside the mix. */
export interface BounceWishes {
  format: BounceFormat;
  /** Tracks, by place in the order, that get a file each. */
  stems?: ReadonlyMap<number, string>;
  groups?: BounceGroup[];
  /** A file with what the hall alone gives. */
  hallFile?: boolean;
  /** Where the files are written; in the browser's memory unless given. It is taken away again when nothing comes of it. */
  folder?: Folder;
  /** Workers that render; all cores unless given. */
  workers?: number;
}

/** A bounce under way; `cancel` ends it and nothing is kept. */
export interface RunningBounce {
  result: Promise<{ files: BouncedFile[]; figures: BounceFigures } | undefined>;
  cancel(): void;
}

/**
 * Bounces an order on all cores: each worker renders some of the tracks, one adds them.
 * @param progress told how many frames of how many are done; the last tail is not counted
 */
export function startBounce(
  order: BounceOrder,
  wishes: BounceWishes,
  progress: (frames: number, endFrame: number) => void,
): RunningBounce {
  const tracks = playedTracks(order);
  const shares = divide(order, tracks, wishes.workers ?? coresWanted());
  const memory = pageMemory();
  const rooms: SharedRoom[] = [];
  let address: number;
  try {
    rooms.push(shareRoom());
    for (const own of shares) rooms.push(shareRoom(own.length * TRACK_BYTES));
    address = memory.allocate(Math.max(1, Stretches.bytes(tracks.length)));
  } catch (error) {
    for (const room of rooms) takeRoomBack(room);
    throw error;
  }
  const letGo = holdRecordings();
  const control = new Int32Array(new SharedArrayBuffer(4 * (WORD.rendered + shares.length)));
  const { folder } = wishes;
  const common = { control, address, tracks, format: wishes.format, folder };
  const workers: Worker[] = [];
  let cancel: () => void = () => undefined;
  let freeAfterMs = 0;
  const cancelled = new Promise<undefined>((resolve) => {
    cancel = () => {
      freeAfterMs = LAST_STEPS_MS;
      resolve(undefined);
    };
  });
  const stems = wishes.stems ?? new Map<number, string>();
  const rendered = shares.map((own, index) => {
    const worker = new Worker(new URL('./bounce-share.worker.ts', import.meta.url), { type: 'module' });
    workers.push(worker);
    const request: ShareRequest = {
      ...common,
      order: partOfOrder(order, own),
      own,
      index,
      stems,
      shared: rooms[1 + index],
    };
    return asked<ShareAnswer, Extract<ShareAnswer, { kind: 'done' }>>(worker, request, (message) =>
      message.kind === 'done' ? message : undefined,
    );
  });
  const mixer = new Worker(new URL('./bounce.worker.ts', import.meta.url), { type: 'module' });
  workers.push(mixer);
  const { instruments: _instruments, events: _events, ...rest } = order;
  const request: MixRequest = {
    ...common,
    kind: 'mix',
    order: rest,
    groups: wishes.groups ?? [],
    hallFile: wishes.hallFile ?? false,
    shared: rooms[0],
  };
  const mixed = asked<MixAnswer, Extract<MixAnswer, { kind: 'done' }>>(mixer, request, (message) => {
    if (message.kind === 'progress') progress(message.frames, message.endFrame);
    return message.kind === 'done' ? message : undefined;
  });
  const all = Promise.all([mixed, ...rendered]).then(([mix, ...own]) => ({
    files: [...mix.files, ...own.flatMap(({ files }) => files)],
    figures: { ...mix.figures, stolen: own.reduce((sum, { stolen }) => sum + stolen, 0) },
  }));
  const result = Promise.race([all, cancelled]);
  const leave = (made: boolean) => {
    for (const worker of workers) worker.terminate();
    setTimeout(() => {
      if (!made && folder) void removeFolder(folder);
      letGo();
      for (const room of rooms) takeRoomBack(room);
      memory.release(address);
    }, freeAfterMs);
  };
  result.then(
    (made) => leave(made !== undefined),
    () => leave(false),
  );
  return { result, cancel };
}

/** Sends a request and waits for the answer that ends it. @throws Error with what the worker says went wrong */
function asked<Answer extends { kind: string }, Done>(
  worker: Worker,
  request: unknown,
  read: (message: Answer) => Done | undefined,
): Promise<Done> {
  return new Promise((resolve, reject) => {
    worker.onmessage = ({ data }: MessageEvent<Answer | { kind: 'failed'; message: string }>) => {
      if (data.kind === 'failed') {
        reject(new Error((data as { message: string }).message));
        return;
      }
      const done = read(data as Answer);
      if (done !== undefined) resolve(done);
    };
    worker.onerror = (event) => reject(new Error(event.message));
    worker.postMessage(request);
  });
}

/** What a share needs of an order. */
function partOfOrder(order: BounceOrder, own: readonly number[]): BounceOrder {
  const chosen = new Set(own);
  const used = new Set(own.map((track) => order.tracks[track].instrumentId));
  return {
    ...order,
    hall: null,
    instruments: order.instruments.filter(({ instrument }) => used.has(instrument.id)),
    events: order.events.filter((event) => chosen.has(event.track)),
  };
}

/**
 * Puts files into one zip, in a worker of its own; `cancel` ends it.
 * @param folder where it is written; in the browser's memory unless given
 */
export function zipFiles(
  files: readonly BouncedFile[],
  folder?: Folder,
): { result: Promise<Blob>; cancel(): void } {
  const worker = new Worker(new URL('./bounce.worker.ts', import.meta.url), { type: 'module' });
  const request: MixRequest = { kind: 'zip', files: [...files], folder };
  const result = asked<MixAnswer, Blob>(worker, request, (message) =>
    message.kind === 'zipped' ? message.file : undefined,
  ).finally(() => worker.terminate());
  return { result, cancel: () => worker.terminate() };
}
