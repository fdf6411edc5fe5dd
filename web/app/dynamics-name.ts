import { DYNAMICS } from '#core/music/index.ts';
import { toNumber } from '../ui/numbers.ts';

const NAMES: readonly string[] = DYNAMICS;

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
