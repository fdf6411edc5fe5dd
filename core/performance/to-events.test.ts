import { describe, expect, it } from 'vitest';
import { TempoMap, type CurvePoint, type Note, type Part } from '../music/index.ts';
import { mixOf, sineInstrument } from '../testing/fixtures.ts';
import { curveSteps, planEndSeconds, planPart, soundsOf, type PlanContext } from './index.ts';
import { enteringEvents, eventsBetween, heldAt, toEvents } from './to-events.ts';

const RATE = 48_000;
const { instrument } = sineInstrument();
// A quarter note lasts a second.
const tempo = new TempoMap([{ tick: 0, bpm: 60 }]);
const context: PlanContext = {
  tempo,
  instrument,
  mix: mixOf(['mix']),
  mode: 'planned',
  articulation: 'long',
};
const note = (id: string, from: number, to: number, key = 69): Note => ({
  id,
  startTick: 960 * from,
  endTick: 960 * to,
  key,
  velocity: 90,
});
const point = (tick: number, value: number, controller = 1): CurvePoint => ({
  id: `${controller} ${tick}`,
  controller,
  tick,
  value,
});
const planOf = (notes: Note[], points: CurvePoint[] = []) =>
  planPart({ notes, marks: [], points } satisfies Part, context);

describe('a curve in steps of time', () => {
  it('is its points, and between unequal ones a value every 10 ms on the line', () => {
    const steps = curveSteps([point(0, 20), point(960, 120), point(1920, 120)], tempo);
    expect(steps).toHaveLength(102);
    for (const { time, value } of steps.slice(0, -1)) expect(value).toBeCloseTo(20 + 100 * time, 6);
    expect(steps[1].time).toBeCloseTo(0.01, 9);
    expect(steps.slice(-2)).toEqual([
      { time: 1, value: 120 },
      { time: 2, value: 120 },
    ]);
  });
  it('falls as well, and goes by ticks where the tempo changes', () => {
    const faster = new TempoMap([
      { tick: 0, bpm: 60 },
      { tick: 960, bpm: 120 },
    ]);
    const steps = curveSteps([point(480, 100), point(1440, 0)], faster);
    const at = (time: number) => steps.find((step) => Math.abs(step.time - time) < 1e-6)?.value;
    // Half a second for its first half, a quarter for the other.
    expect(at(0.75)).toBeCloseTo(75, 6);
    expect(at(1)).toBeCloseTo(50, 6);
    expect(at(1.1)).toBeCloseTo(30, 6);
    expect(steps.at(-1)).toEqual({ time: 1.25, value: 0 });
  });
});

describe('the events of a plan', () => {
  const plan = planOf([note('a', 1, 2), note('b', 2.5, 3, 72), note('c', 2.75, 6, 60)]);
  const sounds = soundsOf(plan);
  const frameOf = (seconds: number) => Math.round(seconds * RATE);
  it('begin and end every sound once, on its frames', () => {
    const events = toEvents(plan, 3, 0);
    const starts = events.filter((event) => event.kind === 'start');
    const stops = events.filter((event) => event.kind === 'stop');
    expect(starts.map(({ key }) => key)).toEqual([69, 72, 60]);
    expect(starts.map(({ frame }) => frame)).toEqual(sounds.map(({ startSeconds }) => frameOf(startSeconds)));
    expect(new Set(starts.map(({ sound }) => sound)).size).toBe(3);
    expect(new Set(stops.map(({ sound }) => sound))).toEqual(new Set(starts.map(({ sound }) => sound)));
    expect(stops.map(({ frame }) => frame)).toEqual(
      sounds.map(({ endSeconds }) => frameOf(endSeconds)).sort((x, y) => x - y),
    );
    expect([...starts, ...stops].every(({ track }) => track === 3)).toBe(true);
    expect(starts.map((start) => [start.offsetSeconds, start.fadeInSeconds])).toEqual(
      sounds.map(({ offsetSeconds, fadeInSeconds }) => [offsetSeconds, fadeInSeconds]),
    );
    expect(planEndSeconds(plan)).toBe(Math.max(...sounds.map(({ endSeconds }) => endSeconds)));
  });
  it('are the same in pieces, whatever lies before and after', () => {
    const origin = { track: 0, startSeconds: 0.5 };
    const whole = eventsBetween(plan, origin, 0, 6 * RATE);
    const pieces = [];
    for (let from = 0; from < 6 * RATE; from += 1777)
      pieces.push(...eventsBetween(plan, origin, from, Math.min(6 * RATE, from + 1777)));
    expect(pieces).toEqual(whole);
    expect(whole.filter(({ kind }) => kind === 'start')[0].frame).toBe(frameOf(sounds[0].startSeconds - 0.5));
  });
  it('taken up in the middle enter what is held, as far into it as it would be', () => {
    const origin = { track: 0, startSeconds: 2 };
    const frame = 1.5 * RATE;
    const entered = enteringEvents(plan, origin, frame).filter((event) => event.kind === 'start');
    expect(entered).toHaveLength(1);
    const [{ key, offsetSeconds, fadeInSeconds, sound }] = entered;
    expect(key).toBe(60);
    expect(offsetSeconds).toBeCloseTo(3.5 - sounds[2].startSeconds, 6);
    expect(fadeInSeconds).toBe(0.01);
    expect(heldAt(plan, origin, frame)).toEqual(new Set([sound]));
    // What is known to sound already is not begun again.
    expect(
      enteringEvents(plan, origin, frame, new Set([sound])).filter((event) => event.kind === 'start'),
    ).toEqual([]);
    expect(heldAt(plan, origin, 6 * RATE).size).toBe(0);
  });
  it('take controllers along as they stand', () => {
    const ridden = planOf([note('a', 0, 4)], [point(960, 30), point(1920, 90)]);
    const entering = (seconds: number) =>
      enteringEvents(ridden, { track: 0, startSeconds: 0 }, seconds * RATE).flatMap((event) =>
        event.kind === 'control' && event.controller === 1 ? [event.value] : [],
      );
    // A step of 10 ms is 0.6 of it.
    expect(Math.abs(entering(1.5)[0] - 60)).toBeLessThan(0.61);
    expect(entering(3)).toEqual([90]);
  });
});
