/** Tracks are dealt out anew when that spares the busiest at least this share. */
const WORTH_MOVING = 0.2;

/**
 * Deals tracks out to workers, the dearest first, each to whoever has least to do.
 * @param costs by track; one that costs nothing needs no worker
 * @param kept workers by track; who has one keeps it
 * @returns workers by track, −1 for none
 */
export function deal(costs: readonly number[], workers: number, kept: readonly number[] = []): number[] {
  const loads = new Array<number>(workers).fill(0);
  const owners = costs.map((cost, track) => {
    const owner = kept[track] ?? -1;
    if (cost <= 0 || owner < 0 || owner >= workers) return -1;
    loads[owner] += cost;
    return owner;
  });
  const open = costs.flatMap((cost, track) => (cost > 0 && owners[track] < 0 ? [track] : []));
  for (const track of open.sort((a, b) => costs[b] - costs[a] || a - b)) {
    const least = loads.indexOf(Math.min(...loads));
    owners[track] = least;
    loads[least] += costs[track];
  }
  return owners;
}

/** As `deal`, but tracks leave their workers where that makes the busiest markedly less so. */
export function dealAnew(costs: readonly number[], workers: number, before: readonly number[]): number[] {
  const kept = deal(costs, workers, before);
  const fresh = deal(costs, workers);
  const busiest = (owners: readonly number[]) => {
    const loads = new Array<number>(workers).fill(0);
    owners.forEach((owner, track) => {
      if (owner >= 0) loads[owner] += costs[track];
    });
    return Math.max(...loads);
  };
  return busiest(fresh) < (1 - WORTH_MOVING) * busiest(kept) ? fresh : kept;
}
