export { AheadReader } from './reader.ts';
export { AheadWriter } from './writer.ts';
export { AheadWords, MOST_WRITERS } from './words.ts';
export { AHEAD_BLOCKS, PLACE_BYTES, PLACE_TRACKS, Rings } from './rings.ts';
export { deal, dealAnew } from './deal.ts';
