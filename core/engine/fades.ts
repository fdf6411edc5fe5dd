import { cos } from '../units/index.ts';

/** Gain of a smooth fade-out at a share of its way, 0 … 1: half a turn of a cosine. */
export const fadeOut = (share: number): number => (1 + cos(Math.PI * Math.min(1, share))) / 2;
