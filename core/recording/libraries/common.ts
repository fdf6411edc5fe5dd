import {
  accented,
  changing,
  FADE,
  GROW,
  held,
  letGo,
  moving,
  pulled,
  short,
  strokes,
  SWELL,
  trill,
  wood,
  type Speech,
} from '../gestures.ts';
import type { Colour, LayerPlan, MovePlan, NotePlan, TechniquePlan } from '../plan.ts';

/** Techniques that several libraries share, ready to be filled with roots and lengths. */

export const THREE_LAYERS: readonly LayerPlan[] = [
  { force: 0.12, amplitude: 0.22, tapeDb: 10 },
  { force: 0.5, amplitude: 0.5, tapeDb: 4 },
  { force: 0.92, amplitude: 1, tapeDb: -2 },
];
export const TWO_LAYERS: readonly LayerPlan[] = [
  { force: 0.2, amplitude: 0.3, tapeDb: 8 },
  { force: 0.88, amplitude: 0.95, tapeDb: -2 },
];
export const MIDDLE: LayerPlan = { force: 0.5, amplitude: 0.5, tapeDb: 4 };
const FULL: LayerPlan = { force: 0.7, amplitude: 0.8, tapeDb: 0 };
export const SHORT_LAYERS: readonly LayerPlan[] = [
  { force: 0.3, amplitude: 0.42, tapeDb: 4 },
  { force: 0.9, amplitude: 1.05, tapeDb: -2 },
];

export const BOW: Speech = {
  attackSeconds: [0.14, 0.055],
  noise: 0.035,
  chiff: 0.16,
  scoop: 12,
  vibrato: 0.06,
};

/** Keys from `from` to `to`, every `step`. */
export function every(step: number, from: number, to: number): number[] {
  return Array.from({ length: Math.floor((to - from) / step) + 1 }, (_, i) => from + i * step);
}

/** Moves by these intervals, up and down. */
export const bothWays = (...intervals: number[]) => [...intervals.map((i) => -i).reverse(), ...intervals];

/** A held technique of one layer that follows dynamics. */
export function colour(
  id: string,
  roots: readonly number[],
  seconds: number,
  speech: Speech,
  change: Colour = {},
  perform: NotePlan['perform'] = held(speech, seconds),
): TechniquePlan {
  return {
    id,
    colour: change,
    notes: {
      roots,
      layers: [MIDDLE],
      takes: 1,
      seconds,
      loopSeconds: [seconds * 0.42, seconds * 0.97],
      control: 'dynamics',
      ridden: true,
      velocityTrack: 0,
      perform,
    },
  };
}

/** Held notes, the ground of every library of bowed and blown instruments. */
export function long(
  roots: readonly number[],
  layers: readonly LayerPlan[],
  seconds: number,
  speech: Speech,
  vibrato: boolean,
  releases: readonly number[],
): TechniquePlan {
  return {
    id: 'long',
    notes: {
      roots,
      layers,
      takes: 1,
      vibrato,
      seconds,
      loopSeconds: [seconds * 0.38, seconds * 0.97],
      control: 'dynamics',
      velocityTrack: 0,
      perform: held(speech, seconds),
    },
    ...(releases.length > 0
      ? { releases: { roots: releases, seconds: 0.75, layer: MIDDLE, perform: letGo(speech, 0.09) } }
      : {}),
  };
}

export function shorts(
  id: string,
  roots: readonly number[],
  takes: number,
  seconds: number,
  shape: { hold: number; fall: number; noise: number; late?: (take: number, root: number) => number },
  layers: readonly LayerPlan[] = SHORT_LAYERS,
): TechniquePlan {
  return {
    id,
    notes: {
      roots,
      layers,
      takes,
      seconds,
      control: 'velocity',
      velocityTrack: 0.6,
      perform: short(shape.hold, shape.fall, shape.noise, shape.late),
    },
  };
}

export function connected(
  roots: readonly number[],
  intervals: readonly number[],
  speech: Speech,
  shape: { before: number; after: number; glide: readonly [number, number]; dip: number },
  late?: (interval: number) => number,
  id = 'connected',
): TechniquePlan {
  const moves: MovePlan = {
    roots,
    intervals,
    layer: MIDDLE,
    beforeSeconds: shape.before,
    afterSeconds: shape.after,
    perform: moving(speech, shape.before, shape.after, shape.glide, shape.dip, late),
  };
  return { id, notesOf: 'long', moves };
}

/** Swell, and crescendo and diminuendo in two lengths; their names say how long they take. */
export function changes(roots: readonly number[], speech: Speech): TechniquePlan[] {
  const one = (id: string, seconds: number, path: (x: number) => number): TechniquePlan => ({
    id,
    label: `${id} ${seconds} s`,
    notes: {
      roots,
      layers: [FULL],
      takes: 1,
      seconds: seconds + 0.3,
      control: 'velocity',
      velocityTrack: 0.3,
      perform: changing(speech, seconds, path),
    },
  });
  return [
    one('swell', 1.2, SWELL),
    one('crescendo short', 0.6, GROW),
    one('crescendo long', 1.2, GROW),
    one('diminuendo short', 0.6, FADE),
    one('diminuendo long', 1.2, FADE),
  ];
}

/** How much of a full set of bowed techniques a section plays. */
export interface BowedPlan {
  low: number;
  high: number;
  /** Roots of held notes, of shorts, of everything else, of moves. */
  roots: readonly number[];
  shortRoots: readonly number[];
  fewRoots: readonly number[];
  moveRoots: readonly number[];
  layers: readonly LayerPlan[];
  takes: number;
  longSeconds: number;
  intervals: readonly number[];
  pluckReference: number;
  /** Techniques that were not recorded. */
  lacks?: readonly string[];
}

/** All techniques of a string section. */
export function bowedTechniques(plan: BowedPlan): TechniquePlan[] {
  const { roots, shortRoots, fewRoots, moveRoots, layers, longSeconds, lacks = [] } = plan;
  const few = fewRoots;
  const second = longSeconds * 0.75;
  const once: readonly LayerPlan[] = [FULL];
  const pluck = (id: string, at: readonly number[], takes: number, snap: number): TechniquePlan => ({
    id,
    notes: {
      roots: at,
      layers: [{ force: snap > 0 ? 0.7 : 0.28, amplitude: 1, tapeDb: 1 }],
      takes,
      seconds: 0.6,
      control: 'velocity',
      velocityTrack: 0.9,
      perform: pulled(0.16, snap, plan.pluckReference),
    },
  });
  const all: TechniquePlan[] = [
    long(
      roots,
      layers,
      longSeconds,
      BOW,
      true,
      shortRoots.filter((_, i) => i % 2 === 0),
    ),
    connected(moveRoots, plan.intervals, BOW, {
      before: 0.15,
      after: 0.42,
      glide: [0.028, 0.0006],
      dip: 0.08,
    }),
    connected(
      moveRoots.slice(0, 1),
      bothWays(2, 4, 7),
      BOW,
      { before: 0.2, after: 0.5, glide: [0.16, 0.006], dip: 0.05 },
      undefined,
      'slide',
    ),
    connected(
      moveRoots,
      [0],
      BOW,
      { before: 0.12, after: 0.45, glide: [0.02, 0], dip: 0.8 },
      undefined,
      'bow change',
    ),
    connected(
      moveRoots.slice(0, 1),
      bothWays(1, 2),
      BOW,
      { before: 0.09, after: 0.4, glide: [0.025, 0.001], dip: 0.12 },
      undefined,
      'runs',
    ),
    colour('muted', few, second, BOW, { tiltDb: -5 }),
    colour('near bridge', few, second, { ...BOW, noise: 0.08 }, { thinDb: 9, tiltDb: 3.5 }),
    colour('over fingerboard', few, second, { ...BOW, noise: 0.05 }, { tiltDb: -7 }),
    colour('flute-like', few, second, { ...BOW, noise: 0.09, vibrato: 0 }, { tiltDb: -10 }),
    colour('harmonics', few, second, { ...BOW, noise: 0.05, vibrato: 0 }, { partials: 3, tiltDb: -3 }),
    colour('tremolo', few, second * 1.1, BOW, {}, strokes(BOW, second * 1.1, 10.5)),
    colour('trill half', few, second, BOW, {}, trill(BOW, second, 100)),
    colour('trill whole', few, second, BOW, {}, trill(BOW, second, 200)),
    shorts('staccato', shortRoots, plan.takes, 0.44, { hold: 0.1, fall: 0.07, noise: 0.5 }),
    shorts('off the string', few, plan.takes, 0.4, { hold: 0.03, fall: 0.05, noise: 0.8 }, once),
    {
      id: 'accented',
      notes: {
        roots: few,
        layers: once,
        takes: 1,
        seconds: 0.9,
        control: 'velocity',
        velocityTrack: 0.6,
        perform: accented(BOW, 0.7),
      },
    },
    pluck(
      'pizzicato',
      shortRoots.filter((_, i) => i % 2 === 0),
      2,
      0,
    ),
    pluck('snapped', few.slice(0, 2), 1, 2.4),
    {
      id: 'with the wood',
      notes: {
        roots: few.slice(0, 2),
        layers: once,
        takes: 2,
        seconds: 0.4,
        control: 'velocity',
        velocityTrack: 0.8,
        perform: wood,
      },
    },
    ...changes(few.slice(0, 1), BOW),
  ];
  return all.filter(({ id }) => !lacks.includes(id));
}
