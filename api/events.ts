import type { AppliedPatch } from './patches.ts';

/** Somebody who has Farlo open. */
export interface Here {
  userId: string;
  name: string;
}

/** Notes that are told of a selection; of more, only these. */
export const MOST_POINTED = 200;

/** What somebody has chosen in a cue: passed on to the others, and kept nowhere. */
export interface Pointing {
  /** The page it is chosen in: one person may have several. */
  tab: string;
  trackId: string | null;
  noteIds: string[];
}

/** What the server tells every browser of a studio, over one stream for all documents. */
export type StreamEvent =
  /** First of a connection: where every document stands, and who is here. */
  | { kind: 'hello'; revisions: Record<string, number>; here: Here[] }
  /** A patch was applied; without `patch` it was too large to be told, and the document is to be fetched. */
  | { kind: 'patch'; documentId: string; revision: number; patch?: AppliedPatch }
  /** Templates or cues came, went or have other names. */
  | { kind: 'documents' }
  /** Who is here changed. */
  | { kind: 'here'; here: Here[] }
  /** What somebody has chosen in a cue now. */
  | ({ kind: 'pointing'; documentId: string } & Here & Pointing)
  /** Members or roles changed. */
  | { kind: 'members' }
  /** Nothing happened; the connection is alive. */
  | { kind: 'beat' };
