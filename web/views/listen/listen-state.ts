import { create } from 'zustand';

/** Surfaces of the view. */
export type ListenSurface = 'line-up' | 'walk' | 'reference' | 'phrase' | 'verdicts';

/** A blind round under way. */
export interface BlindRoundState {
  phrase: string;
  /** Contender ids in the order in which they are shown. */
  order: readonly string[];
  /** Contender ids chosen so far, best first. */
  ranking: readonly string[];
  revealed: boolean;
}

interface ListenState {
  lineUpId: string | undefined;
  surface: ListenSurface;
  /** Chosen cell: phrase and contender by id. */
  phrase: string | undefined;
  contender: string | undefined;
  bpm: number;
  matched: boolean;
  repeat: boolean;
  blind: BlindRoundState | undefined;
  /** Whether the measured report is shown under the phrases. */
  measured: boolean;
}

export const REST_BPM = 108;
const MEASURED_KEY = 'farlo-measured';

/** How the view is looked at; no part of any document. */
export const useListen = create<ListenState>(() => ({
  lineUpId: undefined,
  surface: 'line-up',
  phrase: undefined,
  contender: undefined,
  bpm: REST_BPM,
  matched: true,
  repeat: false,
  blind: undefined,
  measured: localStorage.getItem(MEASURED_KEY) !== 'folded',
}));

/** Shows or folds away the measured report; remembered. */
export function foldMeasured(open: boolean): void {
  localStorage.setItem(MEASURED_KEY, open ? 'open' : 'folded');
  useListen.setState({ measured: open });
}
