const NAMES = ['pp', 'p', 'mp', 'mf', 'f', 'ff'];

/** A dynamics controller value 0…127 as musicians write it. */
export function dynamicsName(value: number): string {
  return NAMES[Math.min(NAMES.length - 1, Math.floor((value / 128) * NAMES.length))];
}
