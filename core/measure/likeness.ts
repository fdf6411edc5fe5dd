/** How long two takes are compared, and how far apart they may have been cut. */
const COMPARED_SECONDS = 0.25;
const LAG_SECONDS = 0.004;

/**
 * How alike two recordings are in their waves, 0…1: the highest normalised correlation over 250 ms from their onsets, moved
 * against each other by up to 4 ms. The same take gives 1.
 * @param ratio pitch of b against a: 2^(semitones/12); b is read that much slower or faster
 */
export function likeness(
  a: Float32Array,
  onsetA: number,
  b: Float32Array,
  onsetB: number,
  rate: number,
  ratio = 1,
): number {
  const step = Math.max(1, Math.round(rate / 24_000));
  const count = Math.floor((COMPARED_SECONDS * rate) / step);
  const most = Math.floor((LAG_SECONDS * rate) / step);
  const x = readAt(a, onsetA, step, count);
  const wide = readAt(b, onsetB - most * step * ratio, step * ratio, count + 2 * most);
  const found = new Float64Array(2 * most + 1);
  for (let lag = 0; lag <= 2 * most; lag++) {
    let xy = 0;
    let xx = 0;
    let yy = 0;
    for (let i = 0; i < count; i++) {
      const y = wide[i + lag];
      xy += x[i] * y;
      xx += x[i] * x[i];
      yy += y * y;
    }
    if (xx > 0 && yy > 0) found[lag] = xy / Math.sqrt(xx * yy);
  }
  let top = 0;
  for (let lag = 1; lag < found.length; lag++) if (found[lag] > found[top]) top = lag;
  // Takes of one key are cut at whole frames; one moved in pitch may lie between them, where a parabola finds it.
  const [before, after] = [found[top - 1], found[top + 1]];
  const bend = 2 * found[top] - before - after;
  const between = ratio === 1 || !(bend > 0) ? 0 : (before - after) ** 2 / (8 * bend);
  return Math.max(0, Math.min(1, found[top] + between));
}

/** `count` values from a place on, straight between frames. */
function readAt(signal: Float32Array, from: number, step: number, count: number): Float64Array {
  const out = new Float64Array(count);
  for (let i = 0; i < count; i++) {
    const place = from + i * step;
    const at = Math.floor(place);
    if (at < 0 || at + 1 >= signal.length) continue;
    out[i] = signal[at] + (place - at) * (signal[at + 1] - signal[at]);
  }
  return out;
}
