import type { AppliedPatch } from './patches.ts';

/** Somebody who has Farlo open. */
export interface Here {
  userId: string;
  name: string;
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
  /** Members or roles changed. */
  | { kind: 'members' }
  /** Nothing happened; the connection is alive. */
  | { kind: 'beat' };
