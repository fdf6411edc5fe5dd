/** One partial of one note: where it lies and how strong it is, in dB. */
export interface Partial {
  hertz: number;
  levelDb: number;
}

/** A frequency at which notes ring out of proportion. */
export interface Resonance {
  hertz: number;
  /** How far partials there stand out of what the neighbouring notes lead one to expect, in dB. */
  excessDb: number;
}

/** Partials nearer than this to each other ring with the same thing. */
const NEAR_CENTS = 55;
/** So many recordings must show it: what one alone has is a matter of that one. */
const FEWEST = 3;
/** Share of the mean excess that each of them must reach. */
const EACH = 0.4;

/**
 * Frequencies at which partials stand out in recording after recording. Every partial is held against the partial of the same
 * number in the neighbouring notes: what belongs to the tone moves along with the note, what stays at one frequency is a
 * resonance. Allocates.
 * @param sets notes low to high, each with its partials from the first on; one set for every layer or technique
 * @param leastDb mean excess that counts as ringing
 */
export function resonancesOf(
  sets: readonly (readonly (readonly Partial[])[])[],
  leastDb: number,
): Resonance[] {
  const excesses = sets
    .flatMap((notes) =>
      notes.flatMap((partials, note) =>
        partials.flatMap(({ hertz, levelDb }, number) => {
          const around = [notes[note - 1]?.[number], notes[note + 1]?.[number]].filter(
            (one) => one !== undefined,
          );
          if (around.length < 2) return [];
          return [{ hertz, excess: levelDb - (around[0].levelDb + around[1].levelDb) / 2 }];
        }),
      ),
    )
    .sort((a, b) => a.hertz - b.hertz);
  const found: Resonance[] = [];
  for (const centre of excesses) {
    const near = excesses.filter(
      ({ hertz }) => Math.abs(1200 * Math.log2(hertz / centre.hertz)) < NEAR_CENTS,
    );
    const excessDb = near.reduce((sum, one) => sum + one.excess, 0) / near.length;
    if (near.length < FEWEST || excessDb < leastDb) continue;
    if (near.some((one) => one.excess < excessDb * EACH)) continue;
    const hertz = near.reduce((sum, one) => sum + one.hertz, 0) / near.length;
    const same = found.find((other) => Math.abs(1200 * Math.log2(other.hertz / hertz)) < 2 * NEAR_CENTS);
    if (!same) found.push({ hertz, excessDb });
    else if (same.excessDb < excessDb) Object.assign(same, { hertz, excessDb });
  }
  return found.sort((a, b) => b.excessDb - a.excessDb);
}
