import { solved } from '../dsp/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { clamp } from '../units/index.ts';
import { isHeard } from './apart.ts';
import { withLevels } from './distance.ts';
import type { MixFigures, SectionForms } from './forms.ts';

/** What a section is to reach; what is left out is left as it comes. */
export interface Aims {
  /** LUFS over the passage. */
  loudness?: number;
  depthDb?: number;
  sideDb?: number;
}

/** One aim and what became of it. */
export interface Reached {
  aim: keyof Aims;
  wanted: number;
  before: number;
  after: number;
  /** What can be had at all by its positions and the hall, from least to most. */
  reach: readonly [number, number];
  /** Whether it is within half a decibel of what was wanted. */
  isMet: boolean;
}

/** A mix that is proposed. */
export interface Proposal {
  mix: TrackMix;
  reached: readonly Reached[];
}

/** What the solver may move. */
export interface Freedom {
  /** Send the section to the hall to bring it further away. */
  hall: boolean;
  /** Make positions wider or narrower. */
  width: boolean;
}

const MET_DB = 0.5;
const LOWEST_DB = -40;
const HIGHEST_DB = 12;
/** How far a level moves as easily as 1 dB of an aim. */
const LEVEL_SCALE_DB = 6;
/** Where positions that are opened begin, below the mix. */
const FAINT_DB = 9;
const WIDTH_SCALE = 0.5;
const SEND_SCALE_DB = 12;
const SEND_RANGE = [-40, 6] as const;
/** How much staying near counts, round by round: at last hardly. */
const STAYING = [0.3, 0.1, 0.03, 0.01, 0.003, 0.001, 0.0003, 0.0001];
const STEPS = 12;

interface Parameter {
  low: number;
  high: number;
  start: number;
  scale: number;
}

/**
 * Moves a section to its aims by levels of its positions, and if allowed their common width and the send to the hall, as little as
 * it takes (Gauss–Newton with a pull to the present mix that is let go of by and by, within bounds). Positions that are off are
 * opened only where those that are heard do not reach the aims. What cannot be reached is come near to, and told.
 */
export function solve(forms: SectionForms, mix: TrackMix, aims: Aims, freedom: Freedom): Proposal {
  const heard = forms.ids.filter((id) => isHeard(mix.positions[id]));
  const first = attempt(forms, mix, aims, freedom, heard);
  if (heard.length === forms.ids.length || first.reached.every(({ isMet }) => isMet)) return first;
  const second = attempt(forms, mix, aims, freedom, forms.ids);
  return restOf(second) < restOf(first) - MET_DB ? second : first;
}

/** How far all aims together are missed, dB. */
function restOf({ reached }: Proposal): number {
  return Math.sqrt(reached.reduce((sum, { after, wanted }) => sum + (after - wanted) ** 2, 0));
}

function attempt(
  forms: SectionForms,
  mix: TrackMix,
  aims: Aims,
  freedom: Freedom,
  ids: readonly string[],
): Proposal {
  const names = (['loudness', 'depthDb', 'sideDb'] as const).filter((name) => aims[name] !== undefined);
  const parameters = ids.map((id): Parameter => {
    const isOpen = isHeard(mix.positions[id]);
    const start = isOpen ? mix.positions[id].levelDb : faintLevel(forms, mix, id);
    return {
      low: LOWEST_DB,
      high: HIGHEST_DB,
      start: clamp(start, LOWEST_DB, HIGHEST_DB),
      scale: isOpen ? LEVEL_SCALE_DB : 2 * LEVEL_SCALE_DB,
    };
  });
  const widthAt = freedom.width ? parameters.push({ low: 0, high: 2, start: 1, scale: WIDTH_SCALE }) - 1 : -1;
  const [lowest, highest] = SEND_RANGE;
  const sendStart = clamp(mix.hallSendDb, lowest, highest);
  const sendAt = freedom.hall
    ? parameters.push({ low: lowest, high: highest, start: sendStart, scale: SEND_SCALE_DB }) - 1
    : -1;
  const made = (x: readonly number[]): TrackMix => {
    const levels = Object.fromEntries(ids.map((id, i) => [id, x[i] <= LOWEST_DB + 0.05 ? -60 : x[i]]));
    const next = withLevels(mix, forms.ids, levels);
    if (widthAt >= 0)
      for (const id of ids) {
        const own = next.positions[id];
        next.positions[id] = { ...own, width: clamp(own.width * x[widthAt], 0, 2) };
      }
    return sendAt >= 0 ? { ...next, hallSendDb: x[sendAt] <= lowest + 0.05 ? -60 : x[sendAt] } : next;
  };
  const figure = (figures: MixFigures, name: keyof Aims) => figures[name] ?? NaN;
  const errors = (x: readonly number[]) => {
    const figures = forms.figures(made(x));
    return names.map((name) => {
      const off = figure(figures, name) - (aims[name] ?? 0);
      return Number.isFinite(off) ? clamp(off, -60, 60) : 0;
    });
  };
  const x = parameters.map(({ start }) => start);
  for (const staying of STAYING)
    for (let step = 0; step < STEPS; step++) improve(x, parameters, errors, staying);
  const found = tidy(made(x));
  const [before, after] = [forms.figures(mix), forms.figures(found)];
  return {
    mix: found,
    reached: names.map((aim) => {
      const wanted = aims[aim] ?? 0;
      const now = figure(after, aim);
      return {
        aim,
        wanted,
        before: figure(before, aim),
        after: now,
        reach: reachOf(forms, mix, aim, freedom),
        isMet: Math.abs(now - wanted) <= MET_DB,
      };
    }),
  };
}

/** Level at which a position that was off is `FAINT_DB` quieter than the mix. */
function faintLevel(forms: SectionForms, mix: TrackMix, id: string): number {
  const alone = forms.figures(withLevels(mix, forms.ids, { [id]: 0 })).loudness;
  const now = forms.figures(mix).loudness;
  return Number.isFinite(now) && Number.isFinite(alone) ? now - alone - FAINT_DB : 0;
}

/** One step of Gauss–Newton, halved until it helps. */
function improve(
  x: number[],
  parameters: readonly Parameter[],
  errors: (x: readonly number[]) => number[],
  staying: number,
): void {
  const pull = (at: readonly number[]) =>
    at.map((value, i) => ((value - parameters[i].start) / parameters[i].scale) * Math.sqrt(staying));
  const cost = (at: readonly number[]) =>
    [...errors(at), ...pull(at)].reduce((sum, value) => sum + value * value, 0);
  const rest = errors(x);
  const n = x.length;
  const slopes = x.map((value, i) => {
    const delta = 0.01 * parameters[i].scale;
    const moved = [...x];
    moved[i] = value + (value + delta > parameters[i].high ? -delta : delta);
    const there = errors(moved);
    return there.map((error, e) => (error - rest[e]) / (moved[i] - value));
  });
  // Normal equations: (JᵀJ + staying / scale²) · step = −(Jᵀe + pull).
  const matrix = Array.from({ length: n }, (_, i) =>
    Array.from({ length: n + 1 }, (_v, j) => {
      if (j === n) {
        const own = slopes[i].reduce((sum, slope, e) => sum + slope * rest[e], 0);
        return -own - (staying * (x[i] - parameters[i].start)) / parameters[i].scale ** 2;
      }
      const shared = slopes[i].reduce((sum, slope, e) => sum + slope * slopes[j][e], 0);
      return shared + (i === j ? staying / parameters[i].scale ** 2 + 1e-9 : 0);
    }),
  );
  const step = solved(matrix);
  const now = cost(x);
  for (let share = 1; share > 1 / 64; share /= 2) {
    const next = x.map((value, i) => clamp(value + share * step[i], parameters[i].low, parameters[i].high));
    if (cost(next) < now) {
      next.forEach((value, i) => (x[i] = value));
      return;
    }
  }
}

/** Levels to a tenth, and what is at the bottom off. */
function tidy(made: TrackMix): TrackMix {
  const positions = Object.fromEntries(
    Object.entries(made.positions).map(([id, one]) => [
      id,
      {
        ...one,
        levelDb: one.levelDb <= LOWEST_DB ? -60 : rounded(one.levelDb, 10),
        width: rounded(one.width, 100),
      },
    ]),
  );
  return { ...made, hallSendDb: rounded(made.hallSendDb, 10), positions };
}

/** In tenths or hundredths, and never −0. */
const rounded = (value: number, parts: number) => Math.round(value * parts) / parts + 0;

/** What an aim can come to at all: by every position alone, without and with the hall, narrow and wide. */
function reachOf(
  forms: SectionForms,
  mix: TrackMix,
  aim: keyof Aims,
  freedom: Freedom,
): readonly [number, number] {
  const values: number[] = [];
  const sends = freedom.hall ? [-60, SEND_RANGE[1]] : [mix.hallSendDb];
  const widths = freedom.width ? [0, 2] : [undefined];
  for (const id of forms.ids)
    for (const hallSendDb of sends)
      for (const width of widths) {
        const alone = withLevels({ ...mix, hallSendDb }, forms.ids, {
          [id]: aim === 'loudness' ? HIGHEST_DB : 0,
        });
        if (width !== undefined) alone.positions[id] = { ...alone.positions[id], width };
        const value = forms.figures(alone)[aim];
        if (value !== undefined && Number.isFinite(value)) values.push(value);
      }
  if (aim === 'loudness') {
    // All positions at their loudest.
    const all = withLevels(mix, forms.ids, Object.fromEntries(forms.ids.map((id) => [id, HIGHEST_DB])));
    return [-70, Math.max(forms.figures(all).loudness, ...values)];
  }
  return [Math.min(...values), Math.max(...values)];
}

/** A mix of fewer positions that stands in for the full one. */
export interface LightMix {
  mix: TrackMix;
  ids: readonly string[];
  reached: readonly Reached[];
  /** How far loudness, depth and width together are off, dB. */
  errorDb: number;
}

/**
 * The few positions that come nearest to a mix in loudness, depth and width, with their levels and widths set for it; undefined
 * when the mix has no more than that.
 * @param most how many positions it may have, 1 or 2
 */
export function lightMix(forms: SectionForms, mix: TrackMix, most: 1 | 2): LightMix | undefined {
  const heard = forms.ids.filter((id) => isHeard(mix.positions[id]));
  if (heard.length <= most) return undefined;
  const { loudness, depthDb, sideDb } = forms.figures(mix);
  const aims: Aims = { loudness, sideDb, ...(depthDb === undefined ? {} : { depthDb }) };
  const choices = forms.ids.flatMap((a, i) =>
    most === 1 ? [[a]] : forms.ids.slice(i + 1).map((b) => [a, b]),
  );
  const found = choices.map((ids): LightMix => {
    const start = withLevels(mix, forms.ids, Object.fromEntries(ids.map((id) => [id, 0])));
    const proposal = attempt(forms, start, aims, { hall: false, width: true }, ids);
    return { mix: proposal.mix, ids, reached: proposal.reached, errorDb: restOf(proposal) };
  });
  return found.reduce((best, one) => (one.errorDb < best.errorDb ? one : best));
}
