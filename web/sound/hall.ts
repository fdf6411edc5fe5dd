import { toast } from 'sonner';
import type { OwnHallInfo } from '#api/index.ts';
import type { HallResponse } from '#core/dsp/index.ts';
import { SHARED_HALLS, type HallSettings, type RecordedHall, type SharedHall } from '#core/rooms/index.ts';
import { fetchBytes, request } from '../state/api-client.ts';
import type { Item } from '../state/documents.ts';
import type { HallOrder } from './hall.worker.ts';
import { soundHost } from './host.ts';
import { usePerformance } from './performance-state.ts';

/** A ruler that is moved asks for many halls: the last one is worked out. */
const AFTER_MS = 120;

let wanted = '';
let working: Worker | undefined;
let timer: ReturnType<typeof setTimeout> | undefined;
const waiting: (() => void)[] = [];

/** Which hall a template has chosen, with its settings. */
interface Chosen {
  hall: string;
  settings: HallSettings;
}

function chosenBy(template: Item<'template'>): Chosen {
  const settings: HallSettings = {
    size: template.hallSize,
    decaySeconds: template.hallDecaySeconds,
    damping: template.hallDamping,
    preDelayMs: template.hallPreDelayMs,
    lowCutHz: template.hallLowCutHz,
    highCutHz: template.hallHighCutHz,
  };
  return { hall: template.hall, settings };
}

/** Recorded halls that were fetched, the last one kept: its rulers are moved. */
let fetched: { id: string; recorded: Promise<RecordedHall> } | undefined;

async function orderFor({ hall, settings }: Chosen): Promise<HallOrder> {
  if (hall in SHARED_HALLS) return { hall: hall as SharedHall, settings };
  if (fetched?.id !== hall) fetched = { id: hall, recorded: fetchHall(hall) };
  const now = fetched;
  try {
    return { recorded: await now.recorded, settings };
  } catch (error) {
    if (fetched === now) fetched = undefined;
    throw error;
  }
}

async function fetchHall(id: string): Promise<RecordedHall> {
  const known = (await request<OwnHallInfo[]>('GET', '/halls')).find((one) => one.id === id);
  if (!known) throw new Error('The hall of this template was taken away.');
  const whole = new Float32Array(await fetchBytes(`/halls/${id}/response`));
  const channels = Array.from({ length: known.channels }, (_, c) =>
    whole.slice(c * known.frames, (c + 1) * known.frames),
  );
  return { channels, decaySeconds: known.decaySeconds };
}

/** Brings the engine to the hall of a template, worked out in a worker; what rings in the one before rings on. */
export function followHall(template: Item<'template'> | undefined): void {
  if (!template) return;
  const chosen = chosenBy(template);
  const key = JSON.stringify(chosen);
  if (key === wanted) return;
  const isFirst = wanted === '';
  wanted = key;
  clearTimeout(timer);
  usePerformance.setState({ hallIsComing: true });
  timer = setTimeout(() => void workOut(chosen, key), isFirst ? 0 : AFTER_MS);
}

/** The hall that is wanted now, once it is worked out. */
export async function wantedHall(): Promise<HallResponse> {
  if (wanted !== '' && soundHost.hallKey !== wanted)
    await new Promise<void>((resolve) => waiting.push(resolve));
  return soundHost.hall;
}

async function workOut(chosen: Chosen, key: string): Promise<void> {
  working?.terminate();
  working = undefined;
  const done = () => {
    for (const tell of waiting.splice(0)) tell();
    usePerformance.setState({ hallIsComing: false });
  };
  // The hall before stays, and whoever waits for this one goes on with it; the next edit tries again.
  const failed = (why: string) => {
    if (wanted !== key) return;
    wanted = soundHost.hallKey;
    toast.error(`${why} The hall before sounds on; choose another one.`);
    done();
  };
  let order: HallOrder;
  try {
    order = await orderFor(chosen);
  } catch (error) {
    failed((error as Error).message);
    return;
  }
  // Another hall was chosen while this one was fetched.
  if (wanted !== key) return;
  const worker = new Worker(new URL('./hall.worker.ts', import.meta.url), { type: 'module' });
  working = worker;
  const ended = () => {
    worker.terminate();
    if (working === worker) working = undefined;
  };
  worker.onmessage = ({ data }: MessageEvent<HallResponse>) => {
    ended();
    soundHost.setHall(data, key);
    done();
  };
  worker.onerror = () => {
    ended();
    failed('The hall could not be worked out.');
  };
  worker.postMessage(order);
}
