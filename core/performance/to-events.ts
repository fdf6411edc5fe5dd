import { LEVEL_STEP_SECONDS, sortEvents, type EngineEvent } from '../engine/index.ts';
import { parameterOfController, PARAMETERS } from '../keymap/index.ts';
import { curveOf, type CurvePoint, type TempoMap } from '../music/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { Plan } from './plan.ts';
import { ALIGN_HOLD_SECONDS, ALIGN_MOVE_SECONDS } from './segment.ts';

/** Curves are handed to the engine in steps this long; the engine glides between them. */
const CURVE_STEP_SECONDS = 0.01;
/** Fade with which a sound is entered in its middle. */
const ENTER_SECONDS = 0.01;
/** Sound numbers of one track lie below this. */
const SOUNDS_PER_TRACK = 4_000_000;

/**
 * Engine events of a planned part, in order.
 * @param trackIndex the engine's track
 * @param startSeconds cue time of frame 0; notes that are held then are entered in their middle, curves are caught up
 */
export function toEvents(plan: Plan, trackIndex: number, startSeconds: number): EngineEvent[] {
  const events: EngineEvent[] = controlEvents(plan, trackIndex, startSeconds);
  const toFrame = (time: number) => Math.round((time - startSeconds) * ENGINE_RATE);
  let sound = trackIndex * SOUNDS_PER_TRACK;
  for (const segment of plan.segments)
    for (const planned of segment.sounds) {
      sound++;
      // What began before the start is entered where it would have got to by then.
      const late = Math.max(0, startSeconds - planned.startSeconds);
      const frame = toFrame(planned.startSeconds + late);
      // What is over before it begins would be let go first and then sound for ever.
      if (toFrame(planned.endSeconds) <= frame) continue;
      events.push({
        kind: 'start',
        frame,
        track: trackIndex,
        sound,
        articulation: planned.articulation,
        role: planned.role,
        key: planned.key,
        velocity: planned.velocity,
        fromKey: planned.fromKey,
        take: planned.take,
        offsetSeconds: planned.offsetSeconds + late,
        fadeInSeconds: late > 0 ? ENTER_SECONDS : planned.fadeInSeconds,
        ...(planned.joins && late === 0
          ? {
              joins: sound - 1,
              alignSeconds: planned.gesture === 'move' ? ALIGN_MOVE_SECONDS : ALIGN_HOLD_SECONDS,
            }
          : {}),
        ...(planned.levelDb === 0 ? {} : { levelDb: planned.levelDb }),
        ...(planned.noise ? { noise: true } : {}),
        ...(planned.morph ? { morph: planned.morph } : {}),
        ...(planned.levelsDb.length > 0 ? { levelsDb: levelsFrom(planned.levelsDb, late) } : {}),
      });
      events.push({
        kind: 'stop',
        track: trackIndex,
        frame: toFrame(planned.endSeconds),
        sound,
        fadeSeconds: planned.endFadeSeconds,
        release: planned.release,
      });
    }
  return sortEvents(events);
}

/** A sound's own levels from a moment after its beginning on. */
function levelsFrom(levelsDb: readonly number[], seconds: number): readonly number[] {
  const passed = Math.min(levelsDb.length - 1, Math.round(seconds / LEVEL_STEP_SECONDS));
  return passed === 0 ? levelsDb : levelsDb.slice(passed);
}

function controlEvents(plan: Plan, trackIndex: number, startSeconds: number): EngineEvent[] {
  const { part, context } = plan;
  const { tempo, responses } = context;
  const events: EngineEvent[] = [];
  const tell = (controller: number, time: number, value: number) =>
    events.push({
      kind: 'control',
      frame: Math.max(0, Math.round((time - startSeconds) * ENGINE_RATE)),
      track: trackIndex,
      controller,
      value,
    });
  const written = new Set(part.points.map((point) => point.controller));
  for (const controller of written) {
    // What a parameter answers to is told below, as it is heard.
    if (responses && parameterOfController(controller) !== undefined) continue;
    for (const { time, value } of curveSteps(curveOf(part.points, controller), tempo))
      tell(controller, time, value);
  }
  if (!responses) return events;
  for (const { id, controller } of PARAMETERS) {
    const leader = PARAMETERS.find((one) => one.id === responses.leader(id))?.controller ?? controller;
    const curve = curveOf(part.points, leader);
    // What is not written rests where the keymap says, whatever was ridden before.
    if (curve.length === 0) tell(controller, -Infinity, responses.rest(id));
    else
      for (const { time, value } of curveSteps(curve, tempo))
        tell(controller, time, responses.shape(id, value));
  }
  return events;
}

/** A curve as steps in time: its points, and between unequal points one value every 10 ms. The first holds from −∞ on. Allocates. */
export function curveSteps(curve: readonly CurvePoint[], tempo: TempoMap): { time: number; value: number }[] {
  const steps: { time: number; value: number }[] = [];
  curve.forEach((point, i) => {
    const time = tempo.toSeconds(point.tick);
    // Level before its first point: sounds with a lead begin there.
    steps.push({ time: i === 0 ? -Infinity : time, value: point.value });
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
