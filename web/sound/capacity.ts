import { create } from 'zustand';
import type { CapacityAnswer } from './capacity.worker.ts';
import { soundHost } from './host.ts';

const KEY = 'farlo-voices';
/** Share of a block's time that voices may take: the rest is for the hall, for the page, and for what the machine does besides. */
const SHARE = 0.5;
export const LEAST_VOICES = 16;
export const MOST_VOICES = 512;
/** Before this machine was tried. */
const UNTRIED_VOICES = 96;

interface Capacity {
  /** What the two-second trial found that this machine can play at once; undefined before it. */
  managed: number | undefined;
  /** What somebody chose instead. */
  chosen: number | undefined;
  trying: boolean;
}

const bounded = (count: number) => Math.max(LEAST_VOICES, Math.min(MOST_VOICES, Math.round(count)));

function kept(): Pick<Capacity, 'managed' | 'chosen'> {
  try {
    const { managed, chosen } = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<Capacity>;
    const known = (count: unknown) => (typeof count === 'number' && count > 0 ? bounded(count) : undefined);
    return { managed: known(managed), chosen: known(chosen) };
  } catch {
    return { managed: undefined, chosen: undefined };
  }
}

/** How many notes may sound at once on this machine. */
export const useCapacity = create<Capacity>(() => ({ ...kept(), trying: false }));

/** Notes that may sound at once now. */
export const voiceLimit = ({ managed, chosen }: Pick<Capacity, 'managed' | 'chosen'>): number =>
  chosen ?? managed ?? UNTRIED_VOICES;

function keep(change: Partial<Pick<Capacity, 'managed' | 'chosen'>>): void {
  useCapacity.setState(change);
  const { managed, chosen } = useCapacity.getState();
  localStorage.setItem(KEY, JSON.stringify({ managed, chosen }));
  tellLimit();
}

/** Tells the engine how many voices may sound. */
export function tellLimit(): void {
  soundHost.setVoiceLimit(voiceLimit(useCapacity.getState()));
}

/** Chooses a limit; undefined for what the machine managed. */
export function chooseLimit(count: number | undefined): void {
  keep({ chosen: count === undefined ? undefined : bounded(count) });
}

/** Tries for two seconds what this machine manages, in a worker, and takes that as the limit. */
export function tryMachine(): Promise<void> {
  if (useCapacity.getState().trying) return Promise.resolve();
  useCapacity.setState({ trying: true });
  const worker = new Worker(new URL('./capacity.worker.ts', import.meta.url), { type: 'module' });
  return new Promise<void>((resolve) => {
    worker.onmessage = ({ data: { voiceMs, blockMs } }: MessageEvent<CapacityAnswer>) => {
      keep({ managed: bounded((SHARE * blockMs) / voiceMs) });
      resolve();
    };
    // A machine that cannot be tried keeps the limit it has.
    worker.onerror = () => resolve();
    worker.postMessage('go');
  }).finally(() => {
    worker.terminate();
    useCapacity.setState({ trying: false });
  });
}
