import type { BounceFigures, BounceOrder } from '#core/deliver/index.ts';
import type { BounceFormat } from './file-writer.ts';
import type { Folder } from './folders.ts';
import type { SharedRoom } from './page-memory.ts';

/** A group of tracks that gets a file of its own. */
export interface BounceGroup {
  name: string;
  /** Places in the order. */
  tracks: number[];
}

/** A file that a bounce has made. */
export interface BouncedFile {
  name: string;
  file: Blob;
}

/** What all workers of a bounce share. */
export interface SharedBounce {
  /** Words by which they wait for each other: see `WORD`. */
  control: Int32Array;
  /** Where the stretches of the played tracks lie. */
  address: number;
  tracks: readonly number[];
  shared: SharedRoom;
  format: BounceFormat;
  /** Where files are written; in the browser's memory unless given. */
  folder?: Folder;
}

/** To the worker that mixes. */
export type MixRequest =
  | ({
      kind: 'mix';
      order: Omit<BounceOrder, 'instruments' | 'events'>;
      groups: BounceGroup[];
      hallFile: boolean;
    } & SharedBounce)
  | { kind: 'zip'; files: BouncedFile[]; folder?: Folder };

export type MixAnswer =
  | { kind: 'progress'; frames: number; endFrame: number }
  | { kind: 'done'; files: BouncedFile[]; figures: BounceFigures }
  | { kind: 'zipped'; file: Blob }
  | { kind: 'failed'; message: string };

/** To a worker that renders some of the tracks. */
export interface ShareRequest extends SharedBounce {
  order: BounceOrder;
  own: number[];
  /** Its place among the shares. */
  index: number;
  /** Names of the files of its tracks, by place in the order; none when only the mix is wanted. */
  stems: ReadonlyMap<number, string>;
}

export type ShareAnswer =
  { kind: 'done'; files: BouncedFile[]; stolen: number } | { kind: 'failed'; message: string };

/** Words of the control array: stretches mixed, whether it is over, and stretches rendered, one word a share. */
export const WORD = { mixed: 0, over: 1, rendered: 2 } as const;
/** Stretches that may be rendered before the first of them is mixed. */
export const AHEAD = 2;
