import { PLAIN_POSITION, type TrackMix } from '../mixing/index.ts';
import { clamp } from '../units/index.ts';
import type { SectionForms } from './forms.ts';

/** Levels below this are off. */
const OFF_DB = -60;
const FAINT_DB = -48;
const ROUNDS = 20;
/** How far beyond its ends the middle of the blend goes, in spreads: there one position is all that is heard. */
const BEYOND = 2.5;
/** A mix is on the path while no position is further from it than this, once all are moved alike. */
const ON_PATH_DB = 0.3;
const PLACES = 100;

interface Known {
  id: string;
  depthDb: number;
  loudness: number;
}

/**
 * The way of a section from near to far, learned from how much direct sound each of its positions holds: every place on it is a mix
 * with a depth between those of the nearest and the furthest position, and all are equally loud.
 */
export class DistancePath {
  private readonly known: readonly Known[];
  /** How far apart in depth positions blend, dB. */
  private readonly spread: number;

  /**
   * @param forms how the section sums; @param mix its pans, widths, mutes and loudness are kept
   * @throws RangeError when fewer than two positions with a known depth are there: then there is no way to go
   */
  constructor(
    private readonly forms: SectionForms,
    private readonly mix: TrackMix,
  ) {
    this.known = forms.ids
      .flatMap((id): Known[] => {
        const { depthDb, loudness } = forms.figures(this.levels({ [id]: 0 }));
        return depthDb === undefined || !Number.isFinite(loudness) ? [] : [{ id, depthDb, loudness }];
      })
      .sort((a, b) => b.depthDb - a.depthDb);
    if (this.known.length < 2) throw new RangeError('a distance needs two positions whose depth is known');
    this.spread = Math.max(1.5, (this.nearest - this.furthest) / (this.known.length - 1) / 1.5);
  }

  /** Depth of the nearest place, dB. */
  get nearest(): number {
    return this.known[0].depthDb;
  }

  /** Depth of the furthest place, dB. */
  get furthest(): number {
    return this.known[this.known.length - 1].depthDb;
  }

  /** Levels of a place. @param place 0 near … 1 far; @returns dB by position */
  at(place: number): Record<string, number> {
    const from = this.nearest + BEYOND * this.spread;
    const to = this.furthest - BEYOND * this.spread;
    return this.asLoud(this.blend(from + clamp(place, 0, 1) * (to - from)));
  }

  /** Where on the way a mix stands, or undefined when it has left it. */
  placeOf(mix: TrackMix): number | undefined {
    const { depthDb } = this.forms.figures(mix);
    if (depthDb === undefined) return undefined;
    // Depth falls all the way.
    let [near, far] = [0, 1];
    for (let round = 0; round < ROUNDS; round++) {
      const middle = (near + far) / 2;
      const there = this.forms.figures(this.levels(this.at(middle))).depthDb ?? depthDb;
      if (there > depthDb) near = middle;
      else far = middle;
    }
    const places = [0, Math.round(near * PLACES) / PLACES, near, 1];
    const gaps = places.map((place) => this.gapTo(this.at(place), mix));
    const least = Math.min(...gaps);
    return least < ON_PATH_DB ? places[gaps.indexOf(least)] : undefined;
  }

  private gapTo(levels: Record<string, number>, mix: TrackMix): number {
    const gaps = this.known.flatMap(({ id }) => {
      const own = mix.positions[id];
      const there = own && !own.muted ? own.levelDb : OFF_DB;
      // What is faint on both sides does not tell.
      return Math.max(levels[id], there) < FAINT_DB
        ? []
        : [Math.max(there, FAINT_DB) - Math.max(levels[id], FAINT_DB)];
    });
    const middle = gaps.reduce((sum, one) => sum + one, 0) / Math.max(1, gaps.length);
    return Math.max(0, ...gaps.map((one) => Math.abs(one - middle)));
  }

  /** Levels of a blend around a depth: each position by how far its own depth is from it, all as if equally loud. */
  private blend(middleDb: number): Record<string, number> {
    const off = this.known.map(({ depthDb }) => ((depthDb - middleDb) / this.spread) ** 2 / 2);
    const nearest = Math.min(...off);
    const loudest = Math.max(...this.known.map(({ loudness }) => loudness));
    return Object.fromEntries(
      this.known.map(({ id, loudness }, i) => [
        id,
        loudest - loudness - ((off[i] - nearest) * 10) / Math.LN10,
      ]),
    );
  }

  /** The same levels moved alike, so that the mix is as loud as the one the path was made for; far below is off. */
  private asLoud(levels: Record<string, number>): Record<string, number> {
    const now = this.forms.figures(this.levels(levels)).loudness;
    const before = this.forms.figures(this.mix).loudness;
    const loudest = Math.max(...Object.values(levels));
    const move = Number.isFinite(before) ? before - now : -loudest;
    return Object.fromEntries(
      this.known.map(({ id }) => {
        const moved = (levels[id] ?? -Infinity) + move;
        return [id, moved < loudest + move - 40 ? OFF_DB : clamp(Math.round(moved * 10) / 10, OFF_DB, 12)];
      }),
    );
  }

  /** The mix with other levels; positions that have none are off. */
  private levels(levels: Record<string, number>): TrackMix {
    return withLevels(this.mix, this.forms.ids, levels);
  }
}

/** A mix with other levels of its positions; those that are given none are off. */
export function withLevels(
  mix: TrackMix,
  ids: readonly string[],
  levels: Readonly<Record<string, number>>,
): TrackMix {
  const positions = Object.fromEntries(
    ids.map((id) => [
      id,
      { ...PLAIN_POSITION, ...mix.positions[id], muted: false, levelDb: levels[id] ?? OFF_DB },
    ]),
  );
  return { ...mix, positions };
}
