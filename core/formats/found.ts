import type { Zone } from '../catalogue/index.ts';

/** Where a word about a zone was written. */
export type WordKind =
  | 'region label'
  | 'group label'
  | 'switch label'
  | 'master label'
  | 'global label'
  | 'folder'
  | 'file name'
  | 'preset'
  | 'name part';

/** Something written about a zone. */
export interface FoundWord {
  kind: WordKind;
  text: string;
}

/** A zone as a file gives it, before anybody has said which technique and position it is. */
export interface FoundZone {
  zone: Omit<Zone, 'samples'>;
  /** Path or name of its recording among what was read. */
  sample: string;
  /** Instrument it belongs to. */
  instrument: string;
  /** What was written about it, the most particular first. */
  words: readonly FoundWord[];
  switchKey?: number;
  /** Position that it is, where its whole file is one; else its words tell. */
  position?: string;
  /** How much of its amplitude goes to a hall by its file, 0 … 1. */
  hallSend?: number;
  /** Rate of its recording, hertz: the frames in `zone` are of this rate. */
  rate: number;
}
