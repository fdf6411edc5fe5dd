import type { TrackMix } from '../mixing/index.ts';
import { clamp } from '../units/index.ts';
import { isHeard } from './apart.ts';
import type { SectionForms } from './forms.ts';
import { solve, type Freedom, type Reached } from './solve.ts';

/** What a seat asks of a section. */
export interface SeatAims {
  /** Direct sound against the room, dB. */
  depthDb: number;
  /** Right against left, dB. */
  balanceDb: number;
  /** How much later than the front of the stage it is to be heard, ms; undefined leaves its delays as they are. */
  lateMs: number | undefined;
}

/** A section brought to a seat, as far as it goes. */
export interface Seated {
  mix: TrackMix;
  /** Undefined where its depth is not known: then its levels stay. */
  depth: Reached | undefined;
  /** Right against left before and after, dB. */
  balance: { wanted: number; before: number; after: number; isMet: boolean };
}

/** A track is panned no further: beyond it only one of its sides would be heard. */
const FURTHEST_PAN = 0.9;
const MET_DB = 0.5;
const LONGEST_MS = 100;
const ROUNDS = 4;

/**
 * Brings a section to a seat: its depth by levels of its positions and, if allowed, the hall, as loud as before; its direction by
 * the track's balance; its arrival by what all its positions wait alike.
 */
export function seatMix(
  forms: SectionForms,
  mix: TrackMix,
  aims: SeatAims,
  freedom: Pick<Freedom, 'hall'>,
): Seated {
  const before = forms.figures(mix);
  const isKnown = before.depthDb !== undefined && Number.isFinite(before.loudness);
  let panned = withBalance(forms, mix, aims.balanceDb);
  let depth: Reached | undefined;
  // Where direct sound and room do not lie alike, a balance changes the depth, and other levels ask for another balance.
  for (let round = 0; isKnown && round < ROUNDS; round++) {
    const { mix: found, reached } = solve(
      forms,
      { ...mix, pan: panned.pan },
      { depthDb: aims.depthDb, loudness: before.loudness },
      { hall: freedom.hall, width: false },
    );
    depth = reached.find(({ aim }) => aim === 'depthDb');
    const next = withBalance(forms, found, aims.balanceDb);
    const isSettled = next.pan === panned.pan;
    panned = next;
    if (isSettled) break;
  }
  const after = forms.figures(panned).balanceDb;
  return {
    mix: aims.lateMs === undefined ? panned : withLateness(panned, aims.lateMs),
    depth: depth && { ...depth, before: before.depthDb ?? depth.before },
    balance: {
      wanted: aims.balanceDb,
      before: before.balanceDb,
      after,
      isMet: Math.abs(after - aims.balanceDb) <= MET_DB,
    },
  };
}

/** The mix with the track's balance set so that its right is so much louder than its left, as far as that goes. */
function withBalance(forms: SectionForms, mix: TrackMix, balanceDb: number): TrackMix {
  const middle = forms.figures({ ...mix, pan: 0 }).balanceDb;
  return { ...mix, pan: panFor(balanceDb - middle) };
}

/** The balance that makes the right side so much louder against the left: the sine law turned round, in hundredths. */
export function panFor(balanceDb: number): number {
  const pan = (Math.atan(10 ** (balanceDb / 20)) * 4) / Math.PI - 1;
  return Math.round(clamp(pan, -FURTHEST_PAN, FURTHEST_PAN) * 100) / 100 + 0;
}

/** The mix with all its positions waiting so long, and longer by what they wait for each other. */
export function withLateness(mix: TrackMix, ms: number): TrackMix {
  const all = Object.values(mix.positions);
  const heard = all.filter(isHeard);
  const now = Math.min(...(heard.length > 0 ? heard : all).map(({ delayMs }) => delayMs));
  if (!Number.isFinite(now)) return mix;
  const positions = Object.entries(mix.positions).map(([id, one]) => {
    const delayMs = Math.round(clamp(one.delayMs - now + ms, 0, LONGEST_MS) * 100) / 100;
    return [id, delayMs === one.delayMs ? one : { ...one, delayMs }] as const;
  });
  return { ...mix, positions: Object.fromEntries(positions) };
}
