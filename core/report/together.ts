import type { ArticulationReport, PositionFigures } from './figures.ts';

/** What an instrument sounds like with all its positions as they were recorded, all at one level. */
export interface Together {
  /** Direct sound against the room, dB; undefined where one of its positions does not tell. */
  depthDb?: number;
  /** Level of the difference of the sides against their sum, dB; undefined where it is silent. */
  sideDb?: number;
}

/** The technique that tells most of a room and of a width: held notes. */
const HELD = 'long';

/**
 * Depth and width of an instrument from what was measured of it: of its long notes, or else of the first technique that tells both.
 * Powers of positions add up, for they hear the same players some milliseconds apart.
 */
export function togetherOf(reports: readonly ArticulationReport[]): Together {
  const all = [...reports]
    .sort((a, b) => Number(b.articulation === HELD) - Number(a.articulation === HELD))
    .map(({ positions }) => summed(positions));
  return (
    all.find(({ depthDb, sideDb }) => depthDb !== undefined && sideDb !== undefined) ??
    all.find(({ depthDb, sideDb }) => depthDb !== undefined || sideDb !== undefined) ??
    {}
  );
}

function summed(positions: readonly PositionFigures[]): Together {
  let [direct, room, middle, side] = [0, 0, 0, 0];
  for (const { loudnessLufs, directToRoomDb, width } of positions) {
    // A position that was recorded silent adds nothing.
    if (loudnessLufs === null) continue;
    const power = fromDb(loudnessLufs);
    const ratio = directToRoomDb === null ? NaN : fromDb(directToRoomDb);
    direct += (power * ratio) / (1 + ratio);
    room += power / (1 + ratio);
    const wide = width ? fromDb(width.sideDb) : NaN;
    middle += power / (1 + wide);
    side += (power * wide) / (1 + wide);
  }
  const [depthDb, sideDb] = [10 * Math.log10(direct / room), 10 * Math.log10(side / middle)];
  return {
    ...(Number.isFinite(depthDb) && { depthDb }),
    ...(Number.isFinite(sideDb) && { sideDb }),
  };
}

const fromDb = (db: number) => 10 ** (db / 10);
