const KEY = 'farlo-cores';
const MOST = 32;

/** Cores of this machine, as the browser tells. */
export const machineCores = (): number => Math.max(1, Math.min(MOST, navigator.hardwareConcurrency || 1));

/** Cores that bounces may use: what was chosen here, or all there are. */
export function coresWanted(): number {
  const chosen = Number(localStorage.getItem(KEY));
  return chosen >= 1 && chosen <= MOST ? Math.round(chosen) : machineCores();
}

/** Chooses how many cores are used on this machine; undefined for all there are. */
export function chooseCores(count: number | undefined): void {
  if (count === undefined) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, String(count));
}
