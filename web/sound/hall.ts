import type { HallResponse } from '#core/dsp/index.ts';
import { SHARED_HALLS, type HallSettings, type SharedHall } from '#core/rooms/index.ts';
import type { Item } from '../state/documents.ts';
import type { HallOrder } from './hall.worker.ts';
import { soundHost } from './host.ts';
import { usePerformance } from './performance-state.ts';

/** A ruler that is moved asks for many halls: the last one is worked out. */
const AFTER_MS = 120;

let wanted = '';
let working: { worker: Worker; key: string } | undefined;
let timer: ReturnType<typeof setTimeout> | undefined;
const waiting: (() => void)[] = [];

/** The hall a template has chosen, with its settings. */
export function hallOrderOf(template: Item<'template'>): HallOrder {
  const settings: HallSettings = {
    size: template.hallSize,
    decaySeconds: template.hallDecaySeconds,
    damping: template.hallDamping,
    preDelayMs: template.hallPreDelayMs,
    lowCutHz: template.hallLowCutHz,
    highCutHz: template.hallHighCutHz,
  };
  return { hall: template.hall in SHARED_HALLS ? (template.hall as SharedHall) : 'harbour', settings };
}

/** Brings the engine to the hall of a template, worked out in a worker; what rings in the one before rings on. */
export function followHall(template: Item<'template'> | undefined): void {
  if (!template) return;
  const order = hallOrderOf(template);
  const key = JSON.stringify(order);
  if (key === wanted) return;
  const isFirst = wanted === '';
  wanted = key;
  clearTimeout(timer);
  usePerformance.setState({ hallIsComing: true });
  timer = setTimeout(() => workOut(order, key), isFirst ? 0 : AFTER_MS);
}

/** The hall that is wanted now, once it is worked out. */
export async function wantedHall(): Promise<HallResponse> {
  if (wanted !== '' && soundHost.hallKey !== wanted)
    await new Promise<void>((resolve) => waiting.push(resolve));
  return soundHost.hall;
}

function workOut(order: HallOrder, key: string): void {
  working?.worker.terminate();
  const worker = new Worker(new URL('./hall.worker.ts', import.meta.url), { type: 'module' });
  working = { worker, key };
  const done = () => {
    worker.terminate();
    if (working?.worker === worker) working = undefined;
    for (const tell of waiting.splice(0)) tell();
    usePerformance.setState({ hallIsComing: false });
  };
  worker.onmessage = ({ data }: MessageEvent<HallResponse>) => {
    soundHost.setHall(data, key);
    done();
  };
  // The hall before stays, and whoever waits for this one goes on with it; the next edit tries again.
  worker.onerror = () => {
    wanted = soundHost.hallKey;
    done();
  };
  worker.postMessage(order);
}
