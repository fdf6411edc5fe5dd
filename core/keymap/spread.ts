/** Values from `first` to 127 shared out among a number of ranges, as evenly as whole numbers allow. */
export function spread(count: number, first = 0): { low: number; high: number }[] {
  const size = 128 - first;
  return Array.from({ length: count }, (_, i) => ({
    low: first + Math.floor((i * size) / count),
    high: first + Math.floor(((i + 1) * size) / count) - 1,
  }));
}
