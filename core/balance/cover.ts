import { THIRD_OCTAVES } from '../measure/index.ts';
import { levelGain, type TrackMix } from '../mixing/index.ts';
import { isHeard } from './apart.ts';

/** A section as it is heard among others: power in third-octave bands (`THIRD_OCTAVES`). */
export interface Heard {
  id: string;
  bands: ArrayLike<number>;
}

/**
 * Power in third-octave bands of a section as it is mixed, from that of its positions at 0 dB: what they have in common is left out,
 * since combs say nothing of who covers whom. @param positions by id
 */
export function bandsOfMix(
  positions: Readonly<Record<string, { bands: ArrayLike<number> }>>,
  mix: TrackMix,
): number[] {
  return THIRD_OCTAVES.map((_, b) =>
    Object.entries(positions).reduce((sum, [id, { bands }]) => {
      const own = mix.positions[id];
      return sum + (isHeard(own) ? (levelGain(mix.gainDb) * levelGain(own.levelDb)) ** 2 * bands[b] : 0);
    }, 0),
  );
}

/** How far a section is covered by the others. */
export interface Covered {
  id: string;
  /** Share of its own sound that lies under the others, 0 … 1. */
  share: number;
  /** Who covers most of it, loudest first, with their part of the covering. */
  by: readonly { id: string; share: number }[];
}

/** Band power against that of a balanced whole, dB. */
export interface BuildUp {
  name: 'low middle' | 'presence';
  fromHz: number;
  toHz: number;
  excessDb: number;
  /** Who brings most of it. */
  by: readonly { id: string; share: number }[];
}

/** Another so much louder in a band covers what lies in it. */
const COVERS_DB = 6;
/** A band that is this far below a section's loudest says nothing of it. */
const OWN_DB = 25;
const NAMED = 3;
/** What an orchestra's long-time spectrum falls by, dB an octave, from its middle up. */
const FALL_DB = 4.5;
const REGIONS = [
  { name: 'low middle', fromHz: 180, toHz: 560 },
  { name: 'presence', fromHz: 1800, toHz: 5600 },
] as const;

/** Who covers whom: a band of a section lies under another that is much louder there. */
export function coversOf(sections: readonly Heard[]): Covered[] {
  return sections.map(({ id, bands }) => {
    const own = Array.from(bands);
    const loudest = Math.max(...own);
    const by = new Map<string, number>();
    let whole = 0;
    let covered = 0;
    own.forEach((power, b) => {
      if (power < loudest * 10 ** (-OWN_DB / 10) || power <= 0) return;
      whole += power;
      let top: Heard | undefined;
      for (const other of sections)
        if (other.id !== id && (!top || other.bands[b] > top.bands[b])) top = other;
      if (!top || top.bands[b] < power * 10 ** (COVERS_DB / 10)) return;
      covered += power;
      by.set(top.id, (by.get(top.id) ?? 0) + power);
    });
    return { id, share: whole > 0 ? covered / whole : 0, by: most(by) };
  });
}

/** Where the whole has gathered more than an orchestra has: against a line that falls from 250 Hz on and is fitted to all bands. */
export function buildUpsOf(sections: readonly Heard[]): BuildUp[] {
  const sum = THIRD_OCTAVES.map((_, b) => sections.reduce((all, { bands }) => all + bands[b], 0));
  const line = THIRD_OCTAVES.map((hz) => -FALL_DB * Math.max(0, Math.log2(hz / 250)));
  const used = THIRD_OCTAVES.flatMap((hz, b) => (hz >= 100 && hz <= 10_000 && sum[b] > 0 ? b : []));
  if (used.length === 0) return [];
  const mean = used.reduce((all, b) => all + 10 * Math.log10(sum[b]) - line[b], 0) / used.length;
  return REGIONS.map(({ name, fromHz, toHz }) => {
    const inside = used.filter((b) => THIRD_OCTAVES[b] >= fromHz && THIRD_OCTAVES[b] <= toHz);
    const excess = inside.map((b) => 10 * Math.log10(sum[b]) - line[b] - mean);
    const shares = new Map(
      sections.map(({ id, bands }) => [id, inside.reduce((all, b) => all + bands[b], 0)] as const),
    );
    return {
      name,
      fromHz,
      toHz,
      excessDb: excess.reduce((all, one) => all + one, 0) / Math.max(1, excess.length),
      by: most(shares),
    };
  });
}

/** The largest, as shares of all. */
function most(amounts: ReadonlyMap<string, number>): { id: string; share: number }[] {
  const total = [...amounts.values()].reduce((sum, one) => sum + one, 0);
  return [...amounts]
    .map(([id, amount]) => ({ id, share: total > 0 ? amount / total : 0 }))
    .filter(({ share }) => share > 0)
    .sort((a, b) => b.share - a.share)
    .slice(0, NAMED);
}
