import { create } from 'zustand';
import { FRAME_RATES, type FrameRate } from '#core/music/index.ts';

const KEY = 'farlo-frames';

function kept(): FrameRate | undefined {
  try {
    const rate = localStorage.getItem(KEY);
    return rate !== null && rate in FRAME_RATES ? (rate as FrameRate) : undefined;
  } catch {
    return undefined;
  }
}

/** Frames in which this person is shown times on this machine; undefined for none. */
export const useFrameRate = create<{ rate: FrameRate | undefined }>(() => ({ rate: kept() }));

export function chooseFrameRate(rate: FrameRate | undefined): void {
  if (rate === undefined) localStorage.removeItem(KEY);
  else localStorage.setItem(KEY, rate);
  useFrameRate.setState({ rate });
}
