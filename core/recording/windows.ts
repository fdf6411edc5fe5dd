/** Windows of the usual layers over dynamics: [in low, in high, out low, out high], by number of layers. */
const USUAL: Record<number, readonly (readonly [number, number, number, number])[]> = {
  2: [
    [0, 0, 40, 100],
    [40, 100, 127, 127],
  ],
  3: [
    [0, 0, 24, 64],
    [24, 64, 76, 116],
    [76, 116, 127, 127],
  ],
};

/** Crossfade opcodes of a layer over dynamics. */
export function layerWindows(
  at: number,
  count: number,
  windows: readonly (readonly [number, number, number, number])[] = USUAL[count],
): string {
  const [inLow, inHigh, outLow, outHigh] = windows[at];
  const parts: string[] = [];
  if (at > 0) parts.push(`xfin_locc1=${inLow} xfin_hicc1=${inHigh}`);
  if (at < count - 1) parts.push(`xfout_locc1=${outLow} xfout_hicc1=${outHigh}`);
  return parts.join(' ');
}
