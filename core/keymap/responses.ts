import type { ArticulationGroup } from '../catalogue/index.ts';
import { CONTROLLER, controllerRest } from '../music/index.ts';
import { clamp } from '../units/index.ts';

/** What a controller can move. Each is kept in parts, and heard by the engine, under its own controller number. */
export interface Parameter {
  readonly id: ParameterId;
  readonly name: string;
  readonly controller: number;
  /** What it does to the sound, in one line. */
  readonly help: string;
}
export const PARAMETER_IDS = [
  'dynamics',
  'expression',
  'vibrato',
  'pace',
  'release',
  'ends',
  'attack',
  'trim',
  'brightness',
  'noise',
  'start',
  'drift',
] as const;
export type ParameterId = (typeof PARAMETER_IDS)[number];

type Line = readonly [name: string, controller: number, help: string];
const LINES: Readonly<Record<ParameterId, Line>> = {
  dynamics: ['dynamics', CONTROLLER.dynamics, 'Crosses the recorded layers, soft to loud, and their tone.'],
  expression: ['expression', CONTROLLER.expression, 'Volume within the volume; the tone stays.'],
  vibrato: ['vibrato amount', CONTROLLER.vibrato, 'From notes played without vibrato to notes with much.'],
  pace: [
    'transition pace',
    CONTROLLER.transitionPace,
    'At 0 recorded moves are played whole; higher, less of them is heard before they land.',
  ],
  release: [
    'release length',
    CONTROLLER.release,
    'How long notes ring once let go: 64 as recorded, up to four times shorter or longer.',
  ],
  ends: [
    'recorded ends',
    CONTROLLER.recordedEnds,
    'Level of recorded ends: 64 as recorded, 127 twice as loud, 0 switches them off.',
  ],
  attack: [
    'attack',
    CONTROLLER.attack,
    'How notes begin: 64 as recorded, higher softer (up to a second), lower without the instrument’s own rise.',
  ],
  trim: [
    'onset trim',
    CONTROLLER.onsetTrim,
    'Cuts into the beginning of short notes, up to 60 ms; their leads follow.',
  ],
  brightness: [
    'brightness',
    CONTROLLER.brightness,
    'A filter over everything: 127 is open, lower is darker.',
  ],
  noise: [
    'breath and noise',
    CONTROLLER.noise,
    'Level of recorded noises: of keys, dampers, breath. 64 as recorded, 0 none.',
  ],
  start: [
    'random start',
    CONTROLLER.randomStart,
    'Long notes begin up to 80 ms into their recording, each elsewhere; 0 always at the beginning.',
  ],
  drift: [
    'pitch drift',
    CONTROLLER.drift,
    'Slow wandering of the pitch, up to 15 cents either way; 0 is none.',
  ],
};

/** What a heard value of a parameter comes to, with its unit, where it has one. */
export function tellParameter(id: ParameterId, value: number): string {
  const round = (number: number, digits = 0) => number.toFixed(digits).replace('-', '−');
  switch (id) {
    case 'trim':
      return `cuts ${round(trimSeconds(value) * 1000)} ms away`;
    case 'start':
      return `up to ${round(startSeconds(value) * 1000)} ms in`;
    case 'drift':
      return `up to ${round((value / 127) * DRIFT_CENTS, 1)} cents`;
    case 'release':
      return `${round(4 ** ((value - 64) / 63.5), 2)} × as recorded`;
    case 'ends':
    case 'noise':
      return value === 0 ? 'off' : `${round(20 * Math.log10(value / 64), 1)} dB`;
    case 'attack':
      return value <= 64
        ? 'as recorded, or quicker'
        : `fades in over ${round(((value - 64) / 63) ** 2 * 1000)} ms`;
    case 'pace':
      return `${round(paceShare(value) * 100)} % of a move is heard`;
    case 'expression':
      return value === 0 ? 'silent' : `${round(40 * Math.log10(value / 127), 1)} dB`;
    default:
      return `${round((value / 127) * 100)} %`;
  }
}

/** Furthest that a pitch drift of 127 wanders either way. */
export const DRIFT_CENTS = 15;

/** Everything a controller can move, in the order of display. */
export const PARAMETERS: readonly Parameter[] = PARAMETER_IDS.map((id) => {
  const [name, controller, help] = LINES[id];
  return { id, name, controller, help };
});
const BY_ID = new Map(PARAMETERS.map((one) => [one.id, one]));
const parameterOf = (id: ParameterId) => BY_ID.get(id) as Parameter;

/** How one parameter is ridden, where that is not as usual. */
export interface Ride {
  readonly id: string;
  readonly parameter: ParameterId;
  /** Number on the wire. */
  readonly controller: number;
  /** −1 … 1: 0 is straight; above, it begins slowly, below, quickly. */
  readonly curve: number;
  /** Values that the ends of the controller give, 0…127; the lower may be the higher. */
  readonly low: number;
  readonly high: number;
  /** Where the controller rests until it is moved. */
  readonly rest: number;
  /** Parameter whose controller moves this one too, in place of its own; empty is none. */
  readonly follows: ParameterId | '';
}

/** A parameter as it is usually ridden. */
export function plainRide(parameter: ParameterId): Ride {
  const { controller } = parameterOf(parameter);
  return {
    id: parameter,
    parameter,
    controller,
    curve: 0,
    low: 0,
    high: 127,
    rest: controllerRest(controller),
    follows: '',
  };
}

/** What dynamics do to short notes: nothing beyond their layers, their level, or from soft as struck to always loud. */
export const SHORT_DYNAMICS = ['none', 'level', 'force'] as const;
export type ShortDynamics = (typeof SHORT_DYNAMICS)[number];

/** What velocity does to long notes, and dynamics to short ones. Velocities of 0 switch off. */
export interface TouchRules {
  /** How much softer a long note struck at 1 is than one at 127, in dB. */
  readonly longVelocityDb: number;
  /** From this velocity on the attack of an accented or short technique is laid on long notes. */
  readonly hardAttackFrom: number;
  /** Connected notes up to this velocity slide; from `bowFrom` on they change the bow. */
  readonly slideBelow: number;
  readonly bowFrom: number;
  readonly shortDynamics: ShortDynamics;
}
export const PLAIN_TOUCH: TouchRules = {
  longVelocityDb: 0,
  hardAttackFrom: 0,
  slideBelow: 0,
  bowFrom: 0,
  shortDynamics: 'none',
};

/** How much softer short notes are at dynamics 0, where dynamics move their level. */
const SHORT_LEVEL_DB = 24;

/** How an instrument answers to controllers: from the wire to parameters, and from what is written or ridden to what is heard. */
export class Responses {
  private readonly rides: ReadonlyMap<ParameterId, Ride>;
  private readonly onWire = new Map<number, ParameterId[]>();
  private readonly canonical: ReadonlyMap<number, ParameterId>;

  constructor(
    rides: readonly Ride[] = [],
    readonly touch: TouchRules = PLAIN_TOUCH,
  ) {
    const own = new Map(rides.map((ride) => [ride.parameter, ride]));
    this.rides = new Map(PARAMETER_IDS.map((id) => [id, own.get(id) ?? plainRide(id)]));
    this.canonical = new Map(PARAMETERS.map(({ id, controller }) => [controller, id]));
    for (const { parameter, controller } of this.rides.values())
      this.onWire.set(controller, [...(this.onWire.get(controller) ?? []), parameter]);
  }

  ride(id: ParameterId): Ride {
    return this.rides.get(id) as Ride;
  }

  /** Parameters that a controller on the wire moves by itself. */
  moved(controller: number): readonly ParameterId[] {
    return this.onWire.get(controller) ?? [];
  }

  /** True for a number that usually moves a parameter and here moves none: the parameter has been learned elsewhere. */
  isGivenUp(controller: number): boolean {
    return this.canonical.has(controller) && !this.onWire.has(controller);
  }

  /** Number under which a controller of the wire is kept in a part. */
  written(controller: number): number {
    const [id] = this.moved(controller);
    return id === undefined ? controller : parameterOf(id).controller;
  }

  /** Number on the wire of what a part keeps under a number; the inverse of `written`. */
  wire(controller: number): number {
    const id = this.canonical.get(controller);
    return id === undefined ? controller : this.ride(id).controller;
  }

  /** The parameter whose written or ridden value a parameter is heard by: its own, or that of what it follows. */
  leader(id: ParameterId): ParameterId {
    const { follows } = this.ride(id);
    return follows === '' ? id : follows;
  }

  /** Parameters that are heard by the value of one: itself, unless it follows another, and what follows it. */
  led(id: ParameterId): ParameterId[] {
    return PARAMETER_IDS.filter((other) => this.leader(other) === id);
  }

  /** Value heard for a written or ridden value, 0…127: along the curve, between the ends of the range. */
  shape(id: ParameterId, value: number): number {
    const { curve, low, high } = this.ride(id);
    const share = clamp(value / 127, 0, 1);
    return low + (high - low) * (curve === 0 ? share : share ** (4 ** curve));
  }

  /** What a note struck with a velocity is played with, by how its articulation behaves and where dynamics stand. */
  struck(
    group: ArticulationGroup,
    velocity: number,
    dynamics: number,
  ): { velocity: number; levelDb: number } {
    const { longVelocityDb, shortDynamics } = this.touch;
    if (group === 'long' || group === 'connected') {
      const levelDb = longVelocityDb === 0 ? 0 : (-longVelocityDb * (127 - velocity)) / 126;
      return { velocity, levelDb };
    }
    if (group !== 'short' || shortDynamics === 'none') return { velocity, levelDb: 0 };
    const share = clamp(dynamics / 127, 0, 1);
    if (shortDynamics === 'level') return { velocity, levelDb: -SHORT_LEVEL_DB * (1 - share) };
    return { velocity: Math.round(velocity + (127 - velocity) * share), levelDb: 0 };
  }

  /** Where the leader of a parameter rests, as the parameter is heard by it. */
  rest(id: ParameterId): number {
    return this.shape(id, this.ride(this.leader(id)).rest);
  }
}

/** The parameter that a controller number of a part stands for. */
export function parameterOfController(controller: number): ParameterId | undefined {
  return PARAMETERS.find((one) => one.controller === controller)?.id;
}

/** Seconds that an onset trim of 0…127 cuts away. */
export const trimSeconds = (value: number) => (clamp(value, 0, 127) / 127) * 0.06;
/** Furthest into a recording that a random start of 0…127 goes, in seconds. */
export const startSeconds = (value: number) => (clamp(value, 0, 127) / 127) * 0.08;
/** Share of a recorded move that a transition pace of 0…127 leaves to be heard before its landing. */
export const paceShare = (value: number) => 1 - 0.75 * (clamp(value, 0, 127) / 127);
