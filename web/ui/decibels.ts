/** A ruler's level as it is written: one decimal, a long minus, −∞ at the bottom. */
export function decibels(levelDb: number): string {
  return levelDb <= -60 ? '−∞' : levelDb.toFixed(1).replace('-', '−');
}
