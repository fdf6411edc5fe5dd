import { toNumber } from '../ui/numbers.ts';

const NAMES = ['pp', 'p', 'mp', 'mf', 'f', 'ff'];

/** A dynamics controller value 0…127 as musicians write it. */
export function dynamicsName(value: number): string {
  return NAMES[Math.min(NAMES.length - 1, Math.floor((value / 128) * NAMES.length))];
}

/** A dynamic as musicians write it (the middle of its range; `ppp` and `fff` are the ends), or the controller's value. */
export function readDynamics(text: string): number | string {
  const word = text.trim().toLowerCase();
  if (/^p{3,}$/.test(word)) return 0;
  if (/^f{3,}$/.test(word)) return 127;
  const at = NAMES.indexOf(word);
  if (at >= 0) return Math.round(((at + 0.5) / NAMES.length) * 127);
  const value = toNumber(text);
  return value !== undefined && value >= 0 && value <= 127
    ? value
    : 'pp, p, mp, mf, f or ff, or a number from 0 to 127.';
}
