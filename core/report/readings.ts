import type { OnsetFigure } from './figures.ts';

/** When notes of a technique speak. */
export interface OnsetSummary {
  medianSeconds: number;
  /** Greatest difference between takes of one note. */
  spreadSeconds: number;
  /** Greatest difference between keys, takes and layers of each in their middle. */
  overKeysSeconds: number;
  riseSeconds: number;
  /** Key whose takes differ most. */
  worstKey: number;
}

/** Median; 0 of an empty list. */
export function medianOf(list: readonly number[]): number {
  if (list.length === 0) return 0;
  const sorted = [...list].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 === 1 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
}

/** Sums up when takes speak; undefined when there are none. */
export function onsetSummary(onsets: readonly OnsetFigure[]): OnsetSummary | undefined {
  if (onsets.length === 0) return undefined;
  const notes = new Map<string, OnsetFigure[]>();
  for (const one of onsets) {
    const name = `${one.key} ${one.layer}`;
    const list = notes.get(name);
    if (list) list.push(one);
    else notes.set(name, [one]);
  }
  let spreadSeconds = 0;
  let worstKey = onsets[0].key;
  for (const list of notes.values()) {
    const times = list.map((one) => one.seconds);
    const spread = Math.max(...times) - Math.min(...times);
    if (spread > spreadSeconds) [spreadSeconds, worstKey] = [spread, list[0].key];
  }
  const byKey = [...new Set(onsets.map(({ key }) => key))].map((key) =>
    medianOf(onsets.flatMap((one) => (one.key === key ? one.seconds : []))),
  );
  return {
    overKeysSeconds: Math.max(...byKey) - Math.min(...byKey),
    medianSeconds: medianOf(onsets.map((one) => one.seconds)),
    spreadSeconds,
    riseSeconds: medianOf(onsets.map((one) => one.riseSeconds)),
    worstKey,
  };
}

/** Notes nearer to each other than this are heard as a trill or roll whatever they are. */
const FASTEST_SECONDS = 0.055;

/**
 * Shortest distance between notes at which a line still sounds even, played by hand: five times the spread of the takes (an
 * unevenness of a fifth of the note value is heard as limping), and twice the time a note takes to its height.
 */
export function fastestEvenSeconds({ spreadSeconds, riseSeconds }: OnsetSummary): number {
  return Math.max(FASTEST_SECONDS, 5 * spreadSeconds, 2 * riseSeconds);
}

/** A distance between notes as players say it: “sixteenths at 120”, “eighths at 140”. */
export function noteValueAt(seconds: number): string {
  for (const [name, quarters] of [
    ['sixteenths', 0.25],
    ['eighths', 0.5],
    ['quarters', 1],
  ] as const) {
    const bpm = (60 * quarters) / seconds;
    if (bpm >= 72) return `${name} at ${Math.floor(Math.min(240, bpm))}`;
  }
  return `quarters at ${Math.floor(60 / seconds)}`;
}
