import { hashText } from '../dsp/index.ts';
import {
  FIRST_PLANNED_SOUND,
  LEVEL_STEP_SECONDS,
  sortEvents,
  type EngineEvent,
  type StartEvent,
  POSITION_LEVEL,
} from '../engine/index.ts';
import { parameterOfController, PARAMETERS } from '../keymap/index.ts';
import { controllerRest, curveOf, type CurvePoint, type TempoMap } from '../music/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Plan } from './plan.ts';
import type { PlannedSound, PositionMove, Segment } from './planned.ts';
import { ALIGN_HOLD_SECONDS, ALIGN_MOVE_SECONDS } from './segment.ts';

/** Curves are handed to the engine in steps this long; the engine glides between them. */
const CURVE_STEP_SECONDS = 0.01;
/** The engine has gone over to another value after so long. */
const GLIDE_SECONDS = 0.02;
/** Fade with which a sound is entered in its middle. */
const ENTER_SECONDS = 0.01;
/** A sound may start this long before that of the note before it: leads differ. */
const MOST_LEAD_SECONDS = 5;

/** Where the frames of events are counted from. */
export interface Origin {
  /** Track of the engine. */
  track: number;
  /** Time of the cue at frame 0. */
  startSeconds: number;
}

const toFrame = (time: number, { startSeconds }: Origin) => Math.round((time - startSeconds) * ENGINE_RATE);

/**
 * Engine events of a planned part, in order.
 * @param trackIndex the engine's track
 * @param startSeconds cue time of frame 0; notes that are held then are entered in their middle, curves are caught up
 */
export function toEvents(plan: Plan, trackIndex: number, startSeconds: number): EngineEvent[] {
  const origin = { track: trackIndex, startSeconds };
  const events = enteringEvents(plan, origin, 0);
  for (const event of eventsBetween(plan, origin, 0, Infinity)) events.push(event);
  return sortEvents(events);
}

/**
 * What a plan needs to be taken up in its middle: controllers as they stand, and the sounds that are held then.
 * @param frame from which on it is played
 * @param known sounds that are there already, by number
 */
export function enteringEvents(
  plan: Plan,
  origin: Origin,
  frame: number,
  known?: ReadonlySet<number>,
): EngineEvent[] {
  const events: EngineEvent[] = [];
  for (const { controller, steps } of controlLines(plan)) {
    const at = lastBefore(steps, origin, frame);
    if (at >= 0)
      events.push({ kind: 'control', frame, track: origin.track, controller, value: steps[at].value });
  }
  eachHeld(plan, origin, frame, (sound, number) => {
    if (known?.has(number)) return;
    const late = origin.startSeconds + frame / ENGINE_RATE - sound.startSeconds;
    events.push(startOf(sound, number, undefined, origin, frame, late));
  });
  return events;
}

/** Numbers of the sounds of a plan that are held at a frame: begun before it and let go after it. */
export function heldAt(plan: Plan, origin: Origin, frame: number): Set<number> {
  const numbers = new Set<number>();
  eachHeld(plan, origin, frame, (_sound, number) => numbers.add(number));
  return numbers;
}

function eachHeld(
  plan: Plan,
  origin: Origin,
  frame: number,
  visit: (sound: PlannedSound, number: number) => void,
): void {
  eachSound(plan, origin, frame, frame, (sound, number) => {
    if (toFrame(sound.startSeconds, origin) < frame && toFrame(sound.endSeconds, origin) > frame)
      visit(sound, number);
  });
}

/** Events of a plan at frames [from, to), in order. What began before is not entered. Looks at no more than it must. */
export function eventsBetween(plan: Plan, origin: Origin, from: number, to: number): EngineEvent[] {
  const events: EngineEvent[] = [];
  for (const { controller, steps } of controlLines(plan))
    for (let i = lastBefore(steps, origin, from) + 1; i < steps.length; i++) {
      const frame = toFrame(steps[i].time, origin);
      if (frame >= to) break;
      if (frame >= from)
        events.push({ kind: 'control', frame, track: origin.track, controller, value: steps[i].value });
    }
  eachSound(plan, origin, from, to, (sound, number, before) => {
    const begins = toFrame(sound.startSeconds, origin);
    const ends = toFrame(sound.endSeconds, origin);
    if (begins >= from && begins < to) events.push(startOf(sound, number, before, origin, begins, 0));
    if (ends >= from && ends < to)
      events.push({
        kind: 'stop',
        frame: ends,
        track: origin.track,
        sound: number,
        fadeSeconds: sound.endFadeSeconds,
        release: sound.release,
      });
  });
  return sortEvents(events);
}

function startOf(
  planned: PlannedSound,
  sound: number,
  before: number | undefined,
  { track }: Origin,
  frame: number,
  late: number,
): StartEvent {
  return {
    kind: 'start',
    frame,
    track,
    sound,
    articulation: planned.articulation,
    role: planned.role,
    key: planned.key,
    velocity: planned.velocity,
    fromKey: planned.fromKey,
    take: planned.take,
    offsetSeconds: planned.offsetSeconds + late,
    fadeInSeconds: late > 0 ? ENTER_SECONDS : planned.fadeInSeconds,
    ...(planned.joins && late === 0 && before !== undefined
      ? {
          joins: before,
          alignSeconds: planned.gesture === 'move' ? ALIGN_MOVE_SECONDS : ALIGN_HOLD_SECONDS,
        }
      : {}),
    ...(planned.levelDb === 0 ? {} : { levelDb: planned.levelDb }),
    ...(planned.noise ? { noise: true } : {}),
    ...(planned.morph ? { morph: planned.morph } : {}),
    ...(planned.levelsDb.length > 0 ? { levelsDb: levelsFrom(planned.levelsDb, late) } : {}),
  };
}

/**
 * Calls back for the sounds that may begin or end at frames from … to, each with its number and that of the sound before it. A sound
 * that would be over before it begins is left out: it would be let go first and then sound for ever.
 */
function eachSound(
  plan: Plan,
  origin: Origin,
  from: number,
  to: number,
  visit: (sound: PlannedSound, number: number, before: number | undefined) => void,
): void {
  const first = origin.startSeconds + (from - 1) / ENGINE_RATE;
  const last = origin.startSeconds + (to + 1) / ENGINE_RATE;
  for (const segment of plan.segments) {
    const { sounds } = segment;
    if (sounds.length === 0 || segment.untilSeconds < first) continue;
    if (sounds[0].startSeconds > last + MOST_LEAD_SECONDS) return;
    let numbers: Float64Array | undefined;
    for (let i = 0; i < sounds.length; i++) {
      const sound = sounds[i];
      if (sound.startSeconds > last || sound.endSeconds < first) continue;
      // What ends within the same frame never sounds, wherever frames are counted from.
      if (toFrame(sound.endSeconds, origin) <= toFrame(sound.startSeconds, origin)) continue;
      numbers ??= numbersOf(segment);
      visit(sound, numbers[i], i > 0 ? numbers[i - 1] : undefined);
    }
  }
}

const kept = new WeakMap<Segment, Float64Array>();

/**
 * Lasting numbers of a segment's sounds, from note, gesture, technique and key: an edit elsewhere, and a new plan of the same, leave
 * them as they are, so that what sounds is found and let go.
 */
function numbersOf(segment: Segment): Float64Array {
  let numbers = kept.get(segment);
  if (numbers) return numbers;
  const seen = new Map<string, number>();
  numbers = Float64Array.from(segment.sounds, ({ noteId, gesture, articulation, key }) => {
    const name = `${noteId} ${gesture} ${articulation} ${key}`;
    const count = seen.get(name) ?? 0;
    seen.set(name, count + 1);
    const text = `${name} ${count}`;
    return FIRST_PLANNED_SOUND + hashText(text) * 2 ** 19 + (hashText(`${text}.`) & 0x7ffff);
  });
  kept.set(segment, numbers);
  return numbers;
}

/** A sound's own levels from a moment after its beginning on. */
function levelsFrom(levelsDb: readonly number[], seconds: number): readonly number[] {
  const passed = Math.min(levelsDb.length - 1, Math.round(seconds / LEVEL_STEP_SECONDS));
  return passed === 0 ? levelsDb : levelsDb.slice(passed);
}

interface Step {
  time: number;
  value: number;
}

/** What one controller is told over a part. */
interface ControlLine {
  controller: number;
  steps: readonly Step[];
}

const lines = new WeakMap<Plan, ControlLine[]>();

/** What all controllers are told over a part; worked out once for a plan. */
function controlLines(plan: Plan): readonly ControlLine[] {
  let list = lines.get(plan);
  if (list) return list;
  const { part, context } = plan;
  const { tempo, responses } = context;
  list = [];
  const written = new Set(part.points.map((point) => point.controller));
  for (const controller of written) {
    // What a parameter answers to is told below, as it is heard.
    if (responses && parameterOfController(controller) !== undefined) continue;
    const curve = curveOf(part.points, controller);
    list.push({ controller, steps: fromRest(plan, curve, controllerRest(controller)) });
  }
  if (responses)
    for (const { id, controller } of PARAMETERS) {
      const leader = PARAMETERS.find((one) => one.id === responses.leader(id))?.controller ?? controller;
      const curve = curveOf(part.points, leader);
      // What is not written rests where the keymap says, whatever was ridden before.
      const steps = fromRest(plan, curve, responses.rest(id), (value) => responses.shape(id, value));
      list.push({ controller, steps });
    }
  if (context.moves)
    context.instrument.positions.forEach(({ id }, p) =>
      list?.push({ controller: POSITION_LEVEL + p, steps: moveSteps(context.moves ?? [], id, tempo) }),
    );
  lines.set(plan, list);
  return list;
}

/** The level of a position as steps: as in the mix until its first place. */
function moveSteps(moves: readonly PositionMove[], positionId: string, tempo: TempoMap): Step[] {
  const curve = moves
    .filter((one) => one.positionId === positionId)
    .map(({ tick, levelDb }): CurvePoint => ({ id: '', controller: POSITION_LEVEL, tick, value: levelDb }))
    .sort((a, b) => a.tick - b.tick);
  return [{ time: -Infinity, value: 0 }, ...curveSteps(curve, tempo)];
}

/**
 * A curve as steps from a value at rest on. Its first value is there with the first sound that is meant for it, which begins ahead of its
 * beat; one at the very beginning holds from −∞ on. @param heard what becomes of a value
 */
function fromRest(
  plan: Plan,
  curve: readonly CurvePoint[],
  rest: number,
  heard: (value: number) => number = (value) => value,
): Step[] {
  const steps = curveSteps(curve, plan.context.tempo).map(({ time, value }) => ({
    time,
    value: heard(value),
  }));
  const [first, ...others] = steps;
  if (!first) return [{ time: -Infinity, value: rest }];
  if (curve[0].tick <= 0) return [{ ...first, time: -Infinity }, ...others];
  return [{ time: -Infinity, value: rest }, { ...first, time: entersAt(plan, first.time) }, ...others];
}

/** When a value is there that is written from a time on. */
function entersAt({ segments }: Plan, time: number): number {
  let at = time;
  for (const { sounds } of segments)
    for (const { beatSeconds, startSeconds } of sounds)
      if (beatSeconds >= time) at = Math.min(at, startSeconds - GLIDE_SECONDS);
  return at;
}

/** The last step before a frame, or −1. */
function lastBefore(steps: readonly Step[], origin: Origin, frame: number): number {
  let low = 0;
  let high = steps.length;
  while (low < high) {
    const middle = (low + high) >> 1;
    if (toFrame(steps[middle].time, origin) < frame) low = middle + 1;
    else high = middle;
  }
  return low - 1;
}

/** A curve as steps in time: its points, and between unequal points one value every 10 ms. Allocates. */
export function curveSteps(curve: readonly CurvePoint[], tempo: TempoMap): Step[] {
  const steps: Step[] = [];
  curve.forEach((point, i) => {
    const time = tempo.toSeconds(point.tick);
    steps.push({ time, value: point.value });
    const next = curve[i + 1];
    if (!next || next.value === point.value) return;
    const end = tempo.toSeconds(next.tick);
    for (let t = time + CURVE_STEP_SECONDS; t < end; t += CURVE_STEP_SECONDS) {
      const tick = tempo.toTicks(t);
      steps.push({
        time: t,
        value: point.value + ((next.value - point.value) * (tick - point.tick)) / (next.tick - point.tick),
      });
    }
  });
  return steps;
}

/** Time at which the last sound of a plan is let go, in seconds of the cue. */
export function planEndSeconds(plan: Plan): number {
  let end = 0;
  for (const segment of plan.segments)
    for (const sound of segment.sounds) end = Math.max(end, sound.endSeconds);
  return end;
}
