import { clamp, cos, dbToGain, sin } from '../units/index.ts';
import type { EqBand } from './eq.ts';

/** How one microphone position of a track enters the mix. */
export interface PositionMix {
  /** −60 … +12 dB; at or below −60 the position is silent. */
  levelDb: number;
  /** −1 left … 1 right. */
  pan: number;
  /** 0 mono, 1 as recorded, up to 2 wider. */
  width: number;
  muted: boolean;
  /** Polarity turned over. */
  inverted: boolean;
  /** 0 … 100 ms. */
  delayMs: number;
  /** What of it goes to the hall, against the track's send; −60 and below is nothing, 0 unless given. */
  sendDb?: number;
  /** Its own tone, before its level. */
  eq?: readonly EqBand[];
  /** Added in another part of a bounce and not here; what is decided by ear, such as how notes join, counts it all the same. */
  elsewhere?: boolean;
}

/** How a track is mixed. */
export interface TrackMix {
  gainDb: number;
  pan: number;
  muted: boolean;
  /** Send to the shared hall; at or below −60 dB nothing is sent. */
  hallSendDb: number;
  /** By position id; a position without an entry is silent. */
  positions: Record<string, PositionMix>;
  /** Tone of the whole track, before its level and its send. */
  eq?: readonly EqBand[];
}

/** The shared hall's own settings. */
export interface HallMix {
  earlyDb: number;
  tailDb: number;
}

export const LOWEST_LEVEL_DB = -60;
export const PLAIN_POSITION: PositionMix = {
  levelDb: 0,
  pan: 0,
  width: 1,
  muted: false,
  inverted: false,
  delayMs: 0,
};

/** Gain of a ruler's level: −60 dB and below is silence. */
export function levelGain(levelDb: number): number {
  return levelDb <= LOWEST_LEVEL_DB ? 0 : dbToGain(levelDb);
}

/**
 * Balance of a stereo signal: constant power (sine law), unity in the middle, +3 dB on the kept side at the ends.
 * @param pan −1 left … 1 right
 */
export function balanceGains(pan: number): { left: number; right: number } {
  const angle = ((clamp(pan, -1, 1) + 1) * Math.PI) / 4;
  return { left: Math.SQRT2 * cos(angle), right: Math.SQRT2 * sin(angle) };
}

/**
 * The 2 × 2 matrix of a position: width by mid and side, then balance, level and polarity.
 * Written into `out` as [left from left, left from right, right from left, right from right].
 */
export function positionMatrix(mix: PositionMix, out: Float64Array): void {
  const level = mix.muted ? 0 : levelGain(mix.levelDb) * (mix.inverted ? -1 : 1);
  const width = clamp(mix.width, 0, 2);
  const same = ((1 + width) / 2) * level;
  const other = ((1 - width) / 2) * level;
  const { left, right } = balanceGains(mix.pan);
  out[0] = left * same;
  out[1] = left * other;
  out[2] = right * other;
  out[3] = right * same;
}

/** What a person silences or hears alone while working; nobody else hears it. Track ids. */
export interface OwnHearing {
  muted: ReadonlySet<string>;
  soloed: ReadonlySet<string>;
  /** Kinds of positions that are heard alone; all unless given. */
  positions?: ReadonlySet<string>;
  /** Everything louder or softer, to compare mixes equally loud; 0 unless given. */
  trimDb?: number;
}

/**
 * Whether a person hears a track: not when the template or they themselves mute it, and while they hear some tracks
 * alone, only those.
 * @param anySoloed whether any track there is now is among those heard alone
 */
export function isAudible(
  track: { id: string; muted: boolean },
  own: OwnHearing,
  anySoloed: boolean,
): boolean {
  return !track.muted && !own.muted.has(track.id) && (!anySoloed || own.soloed.has(track.id));
}

/**
 * A track's mix for a sound that is tried in its place and may have other positions: those both have keep their
 * setting, else all are heard.
 * @param trimDb added to the track's level
 */
export function trialMix(
  own: TrackMix,
  { trimDb }: { trimDb: number },
  positions: readonly { id: string }[] = [],
): TrackMix {
  const shared = positions.filter(({ id }) => (own.positions[id]?.levelDb ?? -60) > -60);
  const mixes = Object.fromEntries(
    positions.map(({ id }) => [id, shared.length > 0 ? own.positions[id] : PLAIN_POSITION]),
  );
  return {
    ...own,
    gainDb: own.gainDb + trimDb,
    positions: Object.fromEntries(Object.entries(mixes).filter(([, one]) => one !== undefined)),
  };
}

/** True when two mixes let the same be heard of every position; what is done to their sum may differ. */
export function samePositions(a: TrackMix, b: TrackMix): boolean {
  if (a.positions === b.positions) return true;
  const ids = Object.keys(a.positions);
  return (
    ids.length === Object.keys(b.positions).length &&
    ids.every((id) => {
      const [one, other] = [a.positions[id], b.positions[id]];
      return (
        other !== undefined &&
        (Object.keys(one) as (keyof PositionMix)[]).every((name) => one[name] === other[name])
      );
    })
  );
}
