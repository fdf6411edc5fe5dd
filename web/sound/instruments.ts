import { create } from 'zustand';
import { InstrumentLoader, type LoadState } from './loader.ts';
import { soundHost } from './host.ts';

interface InstrumentsState {
  /** What is loaded or on its way, by instrument id. */
  loads: Readonly<Record<string, LoadState>>;
  errors: Readonly<Record<string, string>>;
}

/** Instruments in memory, each held once whatever the number of tracks that play it. */
export const useInstruments = create<InstrumentsState>(() => ({ loads: {}, errors: {} }));

const opening = new Map<string, Promise<void>>();

/** Sees to it that an instrument is loaded. @param first articulations needed soonest */
export function wantInstrument(id: string, first: ReadonlySet<string> = new Set()): Promise<void> {
  const known = opening.get(id);
  if (known) return known;
  const work = load(id, first);
  opening.set(id, work);
  return work;
}

/** Forgets an instrument, for example because it was recorded anew; it loads again when it is next wanted. */
export function forgetInstrument(id: string): void {
  opening.delete(id);
  useInstruments.setState(({ loads, errors }) => ({ loads: omit(loads, id), errors: omit(errors, id) }));
}

async function load(id: string, first: ReadonlySet<string>): Promise<void> {
  try {
    const loader = await InstrumentLoader.open(id, (state) => {
      if (state.error) fail(id, state.error);
      useInstruments.setState(({ loads }) => ({ loads: { ...loads, [id]: state } }));
      soundHost.setInstrument(state);
    });
    await loader.load(first);
  } catch (error) {
    opening.delete(id);
    fail(id, (error as Error).message);
  }
}

function fail(id: string, sentence: string): void {
  useInstruments.setState(({ errors }) => ({ errors: { ...errors, [id]: sentence } }));
}

function omit<T>(table: Readonly<Record<string, T>>, id: string): Record<string, T> {
  const { [id]: _gone, ...rest } = table;
  return rest;
}
