/** What is wrong with a recording itself, so that its figures would mean nothing. */
export type Trouble = 'silent' | 'clipped' | 'very short';

const SILENT = 1e-5;
const SHORT_SECONDS = 0.03;
/** So many equal samples in a row at the very top were cut off; a lone one may be chance. */
const CUT_RUN = 4;

/** Looks a recording over before it is measured; undefined when it is sound. Values that are no numbers count as silent. */
export function troubleOf(channels: readonly Float32Array[], rate: number): Trouble | undefined {
  if (channels.length === 0 || channels[0].length < SHORT_SECONDS * rate) return 'very short';
  let peak = 0;
  for (const channel of channels)
    for (let i = 0; i < channel.length; i++) {
      const value = Math.abs(channel[i]);
      if (value > peak) peak = value;
      if (!(value < Infinity)) return 'silent';
    }
  if (peak < SILENT) return 'silent';
  if (peak < 0.98) return undefined;
  for (const channel of channels) {
    let run = 0;
    for (let i = 0; i < channel.length; i++) {
      run = Math.abs(channel[i]) >= peak * 0.9999 ? run + 1 : 0;
      if (run >= CUT_RUN) return 'clipped';
    }
  }
  return undefined;
}
