import { create } from 'zustand';

const KEY = 'farlo-cores';
const MOST = 32;

/** Cores of this machine, as the browser tells. */
export const machineCores = (): number => Math.max(1, Math.min(MOST, navigator.hardwareConcurrency || 1));

function kept(): number | undefined {
  try {
    const chosen = Number(localStorage.getItem(KEY));
    return chosen >= 1 && chosen <= MOST ? Math.round(chosen) : undefined;
  } catch {
    return undefined;
  }
}

/** How many cores somebody chose to use on this machine; undefined for all there are. */
export const useCores = create<{ chosen: number | undefined }>(() => ({ chosen: kept() }));

/** Cores that playing and bounces may use. */
export const coresWanted = (): number => useCores.getState().chosen ?? machineCores();

/** Chooses how many cores are used; all there are is no choice. */
export function chooseCores(count: number): void {
  const chosen = count === machineCores() ? undefined : count;
  if (chosen === undefined) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, String(chosen));
  useCores.setState({ chosen });
}
