/** Mean level in dBFS over frames [from, to) of all channels; −200 when silent. */
export function meanLevelDb(channels: readonly Float32Array[], from: number, to: number): number {
  let sum = 0;
  let count = 0;
  for (const channel of channels)
    for (let i = Math.max(0, from); i < Math.min(to, channel.length); i++) {
      sum += channel[i] * channel[i];
      count++;
    }
  return sum > 0 ? 10 * Math.log10(sum / count) : -200;
}
