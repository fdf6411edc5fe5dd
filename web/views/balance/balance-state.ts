import { create } from 'zustand';

/** What of the balance is looked at: a section, and one of its positions or all. */
export const useChosen = create<{ trackId: string | undefined; positionId: string | undefined }>(() => ({
  trackId: undefined,
  positionId: undefined,
}));

/** Looks at a section, or at one of its positions. */
export function choose(trackId: string | undefined, positionId?: string): void {
  useChosen.setState({ trackId, positionId });
}

/** Whether rulers that are moved while the cue plays are recorded as moves of it. */
export const useRiding = create<{ rides: boolean }>(() => ({ rides: false }));

/** Whether the main surface shows levels or seats. */
export const useSurface = create<{ surface: 'levels' | 'seating' }>(() => ({ surface: 'levels' }));
