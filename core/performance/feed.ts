import { sortEvents, type EngineEvent } from '../engine/index.ts';
import { roundEnd, roundOf, type Course } from '../units/index.ts';
import type { Plan } from './plan.ts';
import { enteringEvents, eventsBetween, heldAt, type Origin } from './to-events.ts';

/** What changed for the engine: from a frame on, these events take the place of what some tracks were told before. */
export interface FeedChange {
  frame: number;
  tracks: number[];
  events: EngineEvent[];
}

/**
 * Hands plans to the engine a window at a time, in frames since playing began, round a loop where there is one; when plans change,
 * it tells only what is new, and what sounds goes on.
 */
export class Feed {
  private plans: readonly (Plan | undefined)[] = [];
  private told = 0;

  constructor(private readonly course: Course) {}

  /** Frames told so far: those before it are told. */
  get until(): number {
    return this.told;
  }

  /** The first window. @param plans by track */
  begin(plans: readonly (Plan | undefined)[], until: number): EngineEvent[] {
    this.plans = plans;
    const entering = this.each((plan, origin) => enteringEvents(plan, origin, 0), 0);
    return [...sortEvents(entering), ...this.go(until)];
  }

  /** The next window, up to a frame. */
  go(until: number): EngineEvent[] {
    if (until <= this.told) return [];
    const events = this.between(this.plans, this.told, until);
    this.told = until;
    return events;
  }

  /**
   * Other plans from a frame on.
   * @returns what the engine is to be told; undefined when nothing that was told has changed
   */
  change(plans: readonly (Plan | undefined)[], from: number): FeedChange | undefined {
    const before = this.plans;
    this.plans = plans;
    const tracks: number[] = [];
    for (let i = 0; i < Math.max(before.length, plans.length); i++)
      if (before[i] !== plans[i]) tracks.push(i);
    if (tracks.length === 0) return undefined;
    // A page that was busy may have fallen behind: what was not told needs no replacing, what sounds must be looked at all the same.
    const at = Math.min(from, this.told);
    const round = roundOf(this.course, at);
    const local = at - round;
    const events: EngineEvent[] = [];
    for (const track of tracks) {
      const origin = this.originOf(track);
      const [old, plan] = [before[track], plans[track]];
      const sounding = old ? heldAt(old, origin, local) : new Set<number>();
      const held = plan ? heldAt(plan, origin, local) : new Set<number>();
      events.push({ kind: 'keep', frame: at, track, sounds: [...held] });
      if (plan)
        for (const event of enteringEvents(plan, origin, local, sounding)) events.push(shifted(event, round));
    }
    const changed = plans.map((plan, i) => (tracks.includes(i) ? plan : undefined));
    for (const event of this.between(changed, at, this.told, tracks)) events.push(event);
    return { frame: at, tracks, events: sortEvents(events) };
  }

  /** What some tracks play from a frame on, up to what was told: for whoever takes their place. */
  enter(tracks: readonly number[], from: number): EngineEvent[] {
    const round = roundOf(this.course, from);
    const events: EngineEvent[] = [];
    for (const track of tracks) {
      const plan = this.plans[track];
      if (!plan) continue;
      for (const event of enteringEvents(plan, this.originOf(track), from - round))
        events.push(shifted(event, round));
    }
    for (const event of this.between(this.plans, from, this.told, tracks)) events.push(event);
    return sortEvents(events);
  }

  private originOf(track: number): Origin {
    return { track, startSeconds: this.course.startSeconds };
  }

  private each(make: (plan: Plan, origin: Origin) => EngineEvent[], round: number): EngineEvent[] {
    return this.plans.flatMap((plan, track) =>
      plan ? make(plan, this.originOf(track)).map((event) => shifted(event, round)) : [],
    );
  }

  /** Events of frames [from, to) round by round; at a seam what was planned is let go, and what is held there entered. */
  private between(
    plans: readonly (Plan | undefined)[],
    from: number,
    to: number,
    chosen?: readonly number[],
  ): EngineEvent[] {
    const events: EngineEvent[] = [];
    const { leadFrames: lead } = this.course;
    for (let at = from; at < to;) {
      const round = roundOf(this.course, at);
      const end = Math.min(to, roundEnd(this.course, at));
      const begins = round > 0 && at === round + lead;
      const part: EngineEvent[] = [];
      plans.forEach((plan, track) => {
        if (chosen && !chosen.includes(track)) return;
        const origin = this.originOf(track);
        if (begins) part.push({ kind: 'keep', frame: at, track, sounds: [] });
        if (!plan) return;
        if (begins) for (const event of enteringEvents(plan, origin, lead)) part.push(shifted(event, round));
        for (const event of eventsBetween(plan, origin, at - round, end - round))
          part.push(shifted(event, round));
      });
      for (const event of sortEvents(part)) events.push(event);
      at = end;
    }
    return events;
  }
}

const shifted = (event: EngineEvent, frames: number): EngineEvent =>
  frames === 0 ? event : { ...event, frame: event.frame + frames };
