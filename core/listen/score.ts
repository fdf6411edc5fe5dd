/** Something sounds are scored by, and how much it counts. */
export interface Weighted {
  id: string;
  weight: number;
}

/** Mean of the scores given, by weight, 0 … 10; undefined while none counts. */
export function weightedScore(
  criteria: readonly Weighted[],
  scoreOf: (criterion: string) => number | undefined,
): number | undefined {
  let sum = 0;
  let weights = 0;
  for (const { id, weight } of criteria) {
    const score = scoreOf(id);
    if (score === undefined) continue;
    sum += weight * score;
    weights += weight;
  }
  return weights > 0 ? sum / weights : undefined;
}
