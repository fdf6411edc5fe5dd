import 'reflect-metadata';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsInt, Matches, Min } from 'class-validator';

/** Bytes [start, end) of a pack. */
export interface PackRead {
  pack: string;
  start: number;
  end: number;
}

/**
 * Many pieces of packs in one request; they are answered one after the other in one stream. Written as flat lists, since
 * checking thousands of small objects would take longer than reading the audio.
 */
export class PackReadsShape {
  @IsArray() @ArrayMaxSize(4000) @Matches(/^[0-9a-f]{64}$/, { each: true }) packs!: string[];
  /** Index in `packs`, start and end of each piece, one after the other. */
  @IsArray()
  @ArrayMinSize(3)
  @ArrayMaxSize(30_000)
  @IsInt({ each: true })
  @Min(0, { each: true })
  spans!: number[];
}

/** Pieces as they travel. */
export function packReads(reads: readonly PackRead[]): PackReadsShape {
  const packs = [...new Set(reads.map((read) => read.pack))];
  const place = new Map(packs.map((pack, i) => [pack, i]));
  return { packs, spans: reads.flatMap(({ pack, start, end }) => [place.get(pack) ?? 0, start, end]) };
}

/** Inverse of `packReads`; undefined when the lists do not fit together. */
export function readsOf({ packs, spans }: PackReadsShape): PackRead[] | undefined {
  if (spans.length % 3 !== 0) return undefined;
  const reads: PackRead[] = [];
  for (let i = 0; i < spans.length; i += 3) {
    const pack = packs[spans[i]] as string | undefined;
    if (pack === undefined) return undefined;
    reads.push({ pack, start: spans[i + 1], end: spans[i + 2] });
  }
  return reads;
}
