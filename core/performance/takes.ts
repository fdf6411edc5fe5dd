import { mix } from '../dsp/index.ts';

/**
 * Chooses a take by a seed, never the one that was just heard.
 * @param last take heard before on this key, or −1
 * @param count takes there are
 * @returns 0 … count − 1
 */
export function nextTake(seed: number, last: number, count: number): number {
  if (count <= 1) return 0;
  const take = mix(seed) % count;
  if (take !== last) return take;
  return (take + 1 + (mix(seed ^ 0x5bd1e995) % (count - 1))) % count;
}
