import { create } from 'zustand';
import { clamp } from '#core/units/index.ts';

const KEY = 'farlo-recording';
/** Bars of clicks before a recording, at most. */
export const MOST_LEAD_BARS = 4;
/** Level of the click, dB. */
export const CLICK_DB = { low: -40, high: 0 } as const;
/** What may be taken off the time of everything that is played, ms. */
export const LATENCY_MS = { low: -100, high: 300 } as const;

/** How this person records on this machine. */
export interface RecordingSettings {
  /** When the click is heard. */
  click: 'never' | 'recording' | 'always';
  clickDb: number;
  leadBars: number;
  /** What is there gives way to what is played, or stays beside it. */
  replaces: boolean;
  /** Only what is played within the loop is written. */
  within: boolean;
  /** Grid that notes are drawn to when a recording ends, ticks; 0 for none. */
  gridTicks: number;
  /** By how much hands and keyboard are late here: it is taken off. */
  latencyMs: number;
}

const FIRST: RecordingSettings = {
  click: 'recording',
  clickDb: -14,
  leadBars: 1,
  replaces: false,
  within: false,
  gridTicks: 0,
  latencyMs: 0,
};

function kept(): RecordingSettings {
  try {
    const read = JSON.parse(localStorage.getItem(KEY) ?? '{}') as Partial<RecordingSettings>;
    const settings = { ...FIRST, ...read };
    return {
      ...settings,
      clickDb: clamp(settings.clickDb, CLICK_DB.low, CLICK_DB.high),
      leadBars: clamp(Math.round(settings.leadBars), 0, MOST_LEAD_BARS),
      latencyMs: clamp(settings.latencyMs, LATENCY_MS.low, LATENCY_MS.high),
    };
  } catch {
    return FIRST;
  }
}

export const useRecordingSettings = create<RecordingSettings>(kept);

export function setRecording(change: Partial<RecordingSettings>): void {
  useRecordingSettings.setState(change);
  localStorage.setItem(KEY, JSON.stringify(useRecordingSettings.getState()));
}
