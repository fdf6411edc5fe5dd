import { create } from 'zustand';
import { tappedLate } from '#core/music/index.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { heardFrame } from './heard-at.ts';
import { overhearMidi } from './midi.ts';
import { LATENCY_MS, setRecording } from './recording-settings.ts';
import { endClicks, playClicks } from './transport.ts';

const CLICKS = 16;
const EVERY_SECONDS = 0.6;
/** Whoever plays this unevenly tells nothing of the machine. */
const MOST_SPREAD_SECONDS = 0.03;

/** How far the measuring has come, and what it found. */
export const useLatency = create<{ measuring: boolean; taps: number; told: string }>(() => ({
  measuring: false,
  taps: 0,
  told: '',
}));

let end: (() => void) | undefined;

/** Plays clicks to which any key is struck, and keeps how late that comes. A second call ends it. */
export async function measureLatency(): Promise<void> {
  if (end) {
    end();
    return;
  }
  const taps: number[] = [];
  const stopHearing = overhearMidi(([status, , velocity], atMs) => {
    const frame = heardFrame(atMs);
    if ((status & 0xf0) !== 0x90 || velocity === 0 || frame === undefined) return;
    taps.push(frame / ENGINE_RATE);
    useLatency.setState({ taps: taps.length });
  });
  const finish = () => {
    clearTimeout(timer);
    stopHearing();
    endClicks();
    end = undefined;
    useLatency.setState({ measuring: false, told: judged(taps) });
  };
  useLatency.setState({ measuring: true, taps: 0, told: '' });
  const timer = setTimeout(finish, (CLICKS + 2) * EVERY_SECONDS * 1000);
  end = finish;
  try {
    await playClicks(CLICKS, EVERY_SECONDS);
  } catch {
    finish();
    useLatency.setState({ told: 'The browser gives no sound.' });
  }
}

/** Keeps what taps tell, and says it. */
function judged(taps: readonly number[]): string {
  const found = tappedLate(taps, EVERY_SECONDS);
  if (!found) return `${taps.length} ${taps.length === 1 ? 'key was' : 'keys were'} struck: too few to tell.`;
  if (found.spread > MOST_SPREAD_SECONDS)
    return `Too uneven to tell: half of them differ by more than ${Math.round(found.spread * 1000)} ms. Try again.`;
  const ms = Math.round(found.late * 1000);
  if (ms < LATENCY_MS.low || ms > LATENCY_MS.high) return `${ms} ms is too much to be taken off.`;
  setRecording({ latencyMs: ms });
  return `${taps.length} keys, ${ms} ms ${ms < 0 ? 'early' : 'late'}: taken off from now on.`;
}
