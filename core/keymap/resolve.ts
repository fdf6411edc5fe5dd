import { unreachable } from '../errors/index.ts';
import type { ArticulationId } from '../music/index.ts';
import { sourcesOf, triggerSets, type Entry, type Keymap, type Source, type Trigger } from './keymap.ts';

/** What a keymap listens to. Keys, controllers, programs and channels count from 0. */
export type KeymapEvent =
  | { kind: 'press'; channel: number; key: number; velocity: number }
  | { kind: 'release'; key: number }
  | { kind: 'control'; controller: number; value: number }
  | { kind: 'program'; program: number }
  | { kind: 'bank'; bank: number }
  /** Chosen by name: on the screen, by a mark, or by the track the note stands on. */
  | { kind: 'choose'; articulation: ArticulationId };

/** What was selected so far. Values that nothing has set are −1. Never changed; a new one is made. */
export interface KeymapState {
  /** Switch keys that are down and select while held, in the order pressed. */
  readonly held: readonly number[];
  /** Latching key pressed last. */
  readonly latched: number;
  readonly program: number;
  readonly bank: number;
  /** Values of the controllers the keymap listens to, where they have moved. */
  readonly controllers: Readonly<Record<number, number>>;
  readonly chosen: ArticulationId;
  /** What was moved last comes first, by number (see `Moved`). */
  readonly recent: readonly number[];
}

/** What came of an event. */
export interface Resolution {
  state: KeymapState;
  /** True when the event was taken by the keymap: a switch key must not sound. */
  taken: boolean;
  /** Articulation that a note gets; the one that holds now for other events. */
  articulation: ArticulationId;
  /** What sounds for the note: those whose velocities fit. Empty for events that are no notes. */
  sources: readonly Source[];
  /** Controller of a morph between the sources. */
  morph: number | undefined;
  /** Conditions that selected it; empty when it was chosen by name or holds from the beginning. */
  because: readonly Trigger[];
}

/** Numbers of what can be moved: 0…127 a held key, then these, then controllers. */
const LATCH = 128;
const PROGRAM = 129;
const BANK = 130;
const CHOSEN = 131;
const CONTROLLERS = 132;

/** One way to select an entry. */
export interface Way {
  entry: Entry;
  /** Conditions on what was moved before the note. */
  selectors: readonly Trigger[];
  /** Conditions on the note itself. */
  filters: readonly Trigger[];
  /** What its selectors listen to. */
  moved: readonly number[];
  held: number;
}

/** A keymap made ready: events are looked up, not searched. Its contents are not to be changed. */
export interface CompiledKeymap {
  readonly keymap: Keymap;
  readonly ways: readonly Way[];
  /** Per key: 0 plays, 1 latches, 2 selects while held, 3 both. */
  readonly switches: Uint8Array;
  readonly listens: ReadonlySet<number>;
  readonly entries: ReadonlyMap<ArticulationId, Entry>;
  /** Ways that hold in a state, best first. */
  readonly ranked: WeakMap<KeymapState, readonly Way[]>;
}

/** Makes a keymap ready. Allocates. */
export function compileKeymap(keymap: Keymap): CompiledKeymap {
  const ways = keymap.entries.flatMap((entry) => triggerSets(entry).flatMap((set) => wayOf(entry, set)));
  const switches = new Uint8Array(128);
  const listens = new Set<number>();
  for (const { selectors } of ways)
    for (const { kind, number, hold } of selectors) {
      if (kind === 'key' && number >= 0 && number < 128) switches[number] |= hold === 'held' ? 2 : 1;
      if (kind === 'controller') listens.add(number);
    }
  const entries = new Map(keymap.entries.map((entry) => [entry.articulation, entry]));
  return { keymap, ways, switches, listens, entries, ranked: new WeakMap() };
}

/** A set of conditions as a way; one that only says “a track of its own” is the choice by name, which always is there. */
function wayOf(entry: Entry, set: readonly Trigger[]): Way[] {
  const conditions = set.filter(({ kind }) => kind !== 'track');
  if (conditions.length === 0) return [];
  const selectors = conditions.filter(({ kind }) => kind !== 'velocity' && kind !== 'channel');
  return [
    {
      entry,
      selectors,
      filters: conditions.filter(({ kind }) => kind === 'velocity' || kind === 'channel'),
      moved: selectors.map(movedBy),
      held: selectors.filter(({ kind, hold }) => kind === 'key' && hold === 'held').length,
    },
  ];
}

/**
 * Whether one and the same note could be meant by two ways with equal right: they listen to the same, ask for equally
 * much of the note, and no value keeps them apart.
 */
export function areEqualRivals(a: Way, b: Way): boolean {
  if (a.filters.length !== b.filters.length || a.moved.length !== b.moved.length) return false;
  if (a.moved.some((what) => !b.moved.includes(what))) return false;
  const conditions = [...b.selectors, ...b.filters];
  return [...a.selectors, ...a.filters].every((one) => conditions.every((other) => canBothHold(one, other)));
}

function canBothHold(a: Trigger, b: Trigger): boolean {
  if (a.kind !== b.kind || (a.kind === 'key' && a.hold !== b.hold)) return true;
  switch (a.kind) {
    case 'velocity':
      return a.low <= b.high && b.low <= a.high;
    case 'controller':
      return a.number !== b.number || (a.low <= b.high && b.low <= a.high);
    case 'key':
      return a.hold === 'held' || a.number === b.number;
    default:
      return a.number === b.number;
  }
}

/** What a condition listens to. */
function movedBy(trigger: Trigger): number {
  switch (trigger.kind) {
    case 'key':
      return trigger.hold === 'held' ? trigger.number : LATCH;
    case 'program':
      return PROGRAM;
    case 'bank':
      return BANK;
    default:
      return CONTROLLERS + trigger.number;
  }
}

/** Nothing pressed or moved; the keymap's first articulation, or another one, is chosen. */
export function initialState(keymap: Keymap, articulation?: ArticulationId): KeymapState {
  return {
    held: [],
    latched: -1,
    program: -1,
    bank: -1,
    controllers: {},
    chosen: articulation ?? keymap.initial,
    recent: [CHOSEN],
  };
}

/**
 * What an event does to the choice of articulation, and what sounds when it is a note. Pure: the same state and event
 * always give the same answer, every event has one, and the same event again changes nothing more. Of several sets of
 * conditions that hold the one with more keys held down wins, then one that looks at the note itself (its velocity or
 * channel), then the one whose condition was moved last, then the one that asks for more, then the one that stands first.
 */
export function resolve(compiled: CompiledKeymap, state: KeymapState, event: KeymapEvent): Resolution {
  switch (event.kind) {
    case 'press': {
      const kind = compiled.switches[event.key] ?? 0;
      if (kind === 0) return noteOf(compiled, state, event.channel, event.velocity);
      let next = state;
      if ((kind & 1) !== 0) next = moved({ ...next, latched: event.key }, LATCH);
      if ((kind & 2) !== 0)
        next = moved(
          { ...next, held: [...next.held.filter((key) => key !== event.key), event.key] },
          event.key,
        );
      return answer(compiled, next, true);
    }
    case 'release': {
      if ((compiled.switches[event.key] ?? 0) === 0) return answer(compiled, state, false);
      if (!state.held.includes(event.key)) return answer(compiled, state, true);
      return answer(compiled, { ...state, held: state.held.filter((key) => key !== event.key) }, true);
    }
    case 'control': {
      const { controller, value } = event;
      if (!compiled.listens.has(controller)) return answer(compiled, state, false);
      const controllers = { ...state.controllers, [controller]: value };
      return answer(compiled, moved({ ...state, controllers }, CONTROLLERS + controller), false);
    }
    case 'program':
      return answer(compiled, moved({ ...state, program: event.program }, PROGRAM), false);
    case 'bank':
      return answer(compiled, moved({ ...state, bank: event.bank }, BANK), false);
    case 'choose':
      return answer(compiled, moved({ ...state, chosen: event.articulation }, CHOSEN), false);
    default:
      return unreachable(event);
  }
}

function moved(state: KeymapState, what: number): KeymapState {
  return { ...state, recent: [what, ...state.recent.filter((other) => other !== what)] };
}

function answer(compiled: CompiledKeymap, state: KeymapState, taken: boolean): Resolution {
  const way = rankedWays(compiled, state).find(({ filters }) => filters.length === 0);
  const articulation = way && isBefore(way, state) ? way.entry.articulation : state.chosen;
  return {
    state,
    taken,
    articulation,
    sources: [],
    morph: undefined,
    because: way?.entry.articulation === articulation ? way.selectors : [],
  };
}

function noteOf(compiled: CompiledKeymap, state: KeymapState, channel: number, velocity: number): Resolution {
  const way = rankedWays(compiled, state).find((one) =>
    one.filters.every((filter) =>
      filter.kind === 'channel'
        ? filter.number === channel
        : velocity >= filter.low && velocity <= filter.high,
    ),
  );
  const chosen = compiled.entries.get(state.chosen);
  const entry = way && isBefore(way, state) ? way.entry : chosen;
  const all = entry ? sourcesOf(entry) : sourcesOf({ articulation: state.chosen, sources: [] });
  return {
    state,
    taken: false,
    articulation: entry?.articulation ?? state.chosen,
    sources: all.filter((source) => velocity >= source.velocityLow && velocity <= source.velocityHigh),
    morph: entry?.morph,
    because: entry && way?.entry === entry ? [...way.selectors, ...way.filters] : [],
  };
}

/** Whether a way goes before what was chosen by name: keys held, a condition on the note itself, or something moved since. */
function isBefore(way: Way, state: KeymapState): boolean {
  if (way.held > 0 || way.filters.length > 0) return true;
  const chosen = state.recent.indexOf(CHOSEN);
  return way.moved.some((what) => state.recent.indexOf(what) < chosen);
}

/** Ways whose selectors hold, best first; remembered with the state. */
function rankedWays(compiled: CompiledKeymap, state: KeymapState): readonly Way[] {
  let known = compiled.ranked.get(state);
  if (!known) {
    const holding = compiled.ways.filter(({ selectors }) => selectors.every((one) => holds(one, state)));
    known = holding
      .map((way) => ({ way, ages: agesOf(way, state) }))
      .sort((a, b) => compareWays(a, b) || compiled.ways.indexOf(a.way) - compiled.ways.indexOf(b.way))
      .map(({ way }) => way);
    compiled.ranked.set(state, known);
  }
  return known;
}

function holds(trigger: Trigger, state: KeymapState): boolean {
  switch (trigger.kind) {
    case 'key':
      return trigger.hold === 'held' ? state.held.includes(trigger.number) : state.latched === trigger.number;
    case 'program':
      return state.program === trigger.number;
    case 'bank':
      return state.bank === trigger.number;
    case 'controller': {
      const value = state.controllers[trigger.number] ?? -1;
      return value >= trigger.low && value <= trigger.high;
    }
    default:
      return false;
  }
}

/** How long ago each of its selectors was moved, in steps, newest first. */
const agesOf = (way: Way, state: KeymapState) =>
  way.moved.map((what) => state.recent.indexOf(what)).sort((a, b) => a - b);

interface Ranked {
  way: Way;
  ages: readonly number[];
}

function compareWays(a: Ranked, b: Ranked): number {
  if (a.way.held !== b.way.held) return b.way.held - a.way.held;
  const looks = Math.sign(b.way.filters.length) - Math.sign(a.way.filters.length);
  if (looks !== 0) return looks;
  for (let i = 0; i < Math.max(a.ages.length, b.ages.length); i++) {
    const difference = (a.ages[i] ?? Infinity) - (b.ages[i] ?? Infinity);
    if (difference !== 0 && !Number.isNaN(difference)) return difference;
  }
  return b.way.filters.length - a.way.filters.length;
}
