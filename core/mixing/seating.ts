import { diffuseGain, type HallModel } from '../rooms/index.ts';
import { clamp, exp10, SPEED_OF_SOUND } from '../units/index.ts';

/** Where a section sits, seen from the conductor: metres to the right, and to the back. */
export interface Seat {
  x: number;
  y: number;
}

/** Where seats may be. */
export const STAGE = { left: -14, right: 14, front: 0.5, back: 18 } as const;
/** How far behind the conductor who listens may stand, metres. */
export const LISTENER_METRES = [0, 20] as const;
/** Loudspeakers stand as far to the sides of the middle. */
const SPEAKER_ANGLE = Math.PI / 6;
/** So much of the stage lies between them, to each side: what is further out sounds from the loudspeaker itself. */
const STAGE_ANGLE = Math.PI / 3;
/** A phantom source is moved no further than this share of the way to a loudspeaker. */
const FURTHEST_SHARE = 0.98;
const LONGEST_MS = 60;
/** Sections this near to the conductor are not late. */
const FRONT_METRES = 2;

/** Metres between a seat and who listens, who stands `listener` metres behind the conductor. */
export function metresTo({ x, y }: Seat, listener: number): number {
  return Math.sqrt(x * x + (y + listener) ** 2);
}

/** Direction of a seat for who listens, radians, 0 in front, to the right positive. */
export function azimuthOf({ x, y }: Seat, listener: number): number {
  return Math.atan2(x, Math.max(0.01, y + listener));
}

/** The seat in a direction, so many metres from who listens. */
export function seatAt(azimuth: number, metres: number, listener: number): Seat {
  return { x: metres * Math.sin(azimuth), y: metres * Math.cos(azimuth) - listener };
}

/**
 * Level of the right side against the left, dB, by which a direction is heard: the tangent law of two loudspeakers at 30° (B. B. Bauer,
 * “Phasor analysis of some stereophonic phenomena”, 1961), the stage's 60° to each side laid between them.
 */
export function balanceOfAzimuth(azimuth: number): number {
  const angle = (clamp(azimuth, -STAGE_ANGLE, STAGE_ANGLE) * SPEAKER_ANGLE) / STAGE_ANGLE;
  const share = clamp(Math.tan(angle) / Math.tan(SPEAKER_ANGLE), -FURTHEST_SHARE, FURTHEST_SHARE);
  return 20 * Math.log10((1 + share) / (1 - share));
}

/** Direction that is heard by the level of the right side against the left: the inverse of `balanceOfAzimuth`. */
export function azimuthOfBalance(balanceDb: number): number {
  const ratio = exp10(balanceDb / 20);
  const share = Number.isFinite(ratio) ? (ratio - 1) / (ratio + 1) : 1;
  return (Math.atan(share * Math.tan(SPEAKER_ANGLE)) * STAGE_ANGLE) / SPEAKER_ANGLE;
}

/** Direct sound against the room in a hall, dB, so many metres away: both are alike at the hall's critical distance. */
export function depthAt(metres: number, hall: HallModel): number {
  return -20 * Math.log10(Math.max(0.1, metres) * diffuseGain(hall));
}

/** How many metres away direct sound stands so against the room: the inverse of `depthAt`. */
export function metresAt(depthDb: number, hall: HallModel): number {
  return exp10(-depthDb / 20) / diffuseGain(hall);
}

/** How much later a seat is heard than one at the front of the stage, ms, 0 … 60. */
export function lateMs(seat: Seat, listener: number): number {
  const further = metresTo(seat, listener) - listener - FRONT_METRES;
  return Math.round(clamp((further / SPEED_OF_SOUND) * 1000, 0, LONGEST_MS) * 10) / 10;
}

/** Within the stage, to the centimetre. */
export function onStage({ x, y }: Seat): Seat {
  const rounded = (value: number) => Math.round(value * 100) / 100 + 0;
  return {
    x: rounded(clamp(x, STAGE.left, STAGE.right)),
    y: rounded(clamp(y, STAGE.front, STAGE.back)),
  };
}
