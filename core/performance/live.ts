import { articulationTerm, type Instrument } from '../catalogue/index.ts';
import type { EngineEvent, SampleAudio } from '../engine/index.ts';
import { PITCH_BEND } from '../engine/index.ts';
import { TriggerState, type Trigger } from '../keymap/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { CONTROLLER, controllerRest, type ArticulationId } from '../music/index.ts';
import { Leads } from './leads.ts';
import {
  ALIGN_HOLD_SECONDS,
  ALIGN_MOVE_SECONDS,
  handOverOf,
  IMMEDIATE_LEAD_SECONDS,
  MOVE_OUT_SECONDS,
} from './segment.ts';
import { nextTake } from './takes.ts';

/** An event that takes effect `afterSeconds` from now. */
export interface LiveEvent {
  afterSeconds: number;
  event: EngineEvent;
}

interface Held {
  key: number;
  sound: number;
  articulation: number;
}

/** Sounds played by hand are numbered from here, beyond those of any plan. */
const FIRST_LIVE_SOUND = 2_000_000_000;
/** A recorded move is numbered this far above the tone it leads to. */
const MOVE_SOUND = 500_000;
const MOVE_FADE_SECONDS = 0.04;

/**
 * Turns what a hand plays on one track into engine events, at once: keyswitches, takes, pedal, and connected
 * moves in the immediate way.
 */
export class LivePlayer {
  readonly triggers: TriggerState;
  private readonly held = new Map<number, Held>();
  private readonly pedalled = new Set<number>();
  private pedal = false;
  private dynamics = controllerRest(CONTROLLER.dynamics);
  private vibrato = controllerRest(CONTROLLER.vibrato);
  private nextSound: number;
  private readonly lastTake = new Map<string, number>();
  private readonly leads: Leads;
  private count = 0;

  /**
   * @param trackIndex the engine's track
   * @param audio loaded recordings by sample id: with them moves are as loud as the tones they lead between
   */
  constructor(
    private readonly instrument: Instrument,
    private readonly trackIndex: number,
    triggers: readonly Trigger[],
    articulation: ArticulationId,
    mix: TrackMix,
    audio?: ReadonlyMap<string, SampleAudio>,
  ) {
    this.triggers = new TriggerState(triggers, articulation);
    this.leads = new Leads(instrument, mix, audio);
    this.nextSound = FIRST_LIVE_SOUND + trackIndex * 1_000_000;
  }

  /** Keys that sound because a hand or the pedal holds them. */
  get soundingKeys(): number[] {
    return [...this.held.keys()];
  }

  /** Takes a channel message (note, controller, pitch bend); other messages give nothing. */
  message(status: number, data1: number, data2: number): LiveEvent[] {
    switch (status & 0xf0) {
      case 0x90:
        return data2 > 0 ? this.noteOn(data1, data2) : this.noteOff(data1);
      case 0x80:
        return this.noteOff(data1);
      case 0xb0:
        return this.controller(data1, data2);
      case 0xe0:
        return [
          now({
            kind: 'control',
            frame: 0,
            track: this.trackIndex,
            controller: PITCH_BEND,
            value: data2 + data1 / 128,
          }),
        ];
      default:
        return [];
    }
  }

  noteOn(key: number, velocity: number): LiveEvent[] {
    if (this.triggers.press(key)) return [];
    const events = this.end(key);
    const wanted = this.triggers.current;
    const articulation = Math.max(
      0,
      this.instrument.articulations.findIndex((a) => a.id === wanted),
    );
    const term = articulationTerm(this.instrument.articulations[articulation]?.id ?? '');
    const before =
      term.group === 'connected'
        ? [...this.held.values()].filter((h) => h.articulation === articulation).at(-1)
        : undefined;
    const move = before && this.leads.move(articulation, before.key, key);
    const sound = this.nextSound++;
    const start = {
      kind: 'start' as const,
      frame: 0,
      track: this.trackIndex,
      sound,
      articulation,
      role: 'attack' as const,
      key,
      velocity,
      fromKey: key,
      take: this.takeFor(articulation, key, velocity),
      offsetSeconds: 0,
      fadeInSeconds: 0,
    };
    if (before && move) {
      const heard = Math.min(move.leadSeconds, IMMEDIATE_LEAD_SECONDS);
      const { afterSeconds, overSeconds } = handOverOf(move);
      const levelsDb = this.leads.matched(
        move,
        move.leadSeconds - heard,
        [articulation, before.key],
        [articulation, key],
        { velocity, dynamics: this.dynamics, vibrato: this.vibrato },
      );
      // Both the old tone, begun or still to come, and the move that led to it.
      for (const old of [before.sound, before.sound + MOVE_SOUND])
        events.push(
          now({ kind: 'stop', frame: 0, sound: old, fadeSeconds: MOVE_FADE_SECONDS, release: false }),
        );
      this.held.delete(before.key);
      events.push(
        now({
          ...start,
          sound: sound + MOVE_SOUND,
          role: 'transition',
          fromKey: before.key,
          offsetSeconds: move.leadSeconds - heard,
          fadeInSeconds: MOVE_FADE_SECONDS,
          joins: before.sound,
          alignSeconds: ALIGN_MOVE_SECONDS,
          levelsDb,
        }),
        {
          afterSeconds: heard + afterSeconds,
          event: {
            kind: 'stop',
            frame: 0,
            sound: sound + MOVE_SOUND,
            fadeSeconds: overSeconds,
            release: false,
          },
        },
        {
          afterSeconds: heard + afterSeconds,
          event: {
            ...start,
            offsetSeconds: this.leads.settled(articulation, key, velocity),
            fadeInSeconds: overSeconds,
            joins: sound + MOVE_SOUND,
            alignSeconds: ALIGN_HOLD_SECONDS,
          },
        },
      );
    } else events.push(now(start));
    this.held.set(key, { key, sound, articulation });
    this.pedalled.delete(key);
    return events;
  }

  noteOff(key: number): LiveEvent[] {
    if (this.triggers.release(key)) return [];
    if (this.pedal) {
      if (this.held.has(key)) this.pedalled.add(key);
      return [];
    }
    return this.end(key);
  }

  /** Lets go of everything, for example when the input is unplugged. */
  allOff(): LiveEvent[] {
    this.pedal = false;
    this.pedalled.clear();
    return [...this.held.keys()].flatMap((key) => this.end(key));
  }

  private controller(controller: number, value: number): LiveEvent[] {
    if (controller === CONTROLLER.pedal) {
      this.pedal = value >= 64;
      if (this.pedal) return [];
      const keys = [...this.pedalled];
      this.pedalled.clear();
      return keys.flatMap((key) => this.end(key));
    }
    if (controller === CONTROLLER.dynamics) this.dynamics = value;
    if (controller === CONTROLLER.vibrato) this.vibrato = value;
    if (controller === 120 || controller === 123) return this.allOff();
    return [now({ kind: 'control', frame: 0, track: this.trackIndex, controller, value })];
  }

  private end(key: number): LiveEvent[] {
    const held = this.held.get(key);
    if (!held) return [];
    this.held.delete(key);
    this.pedalled.delete(key);
    const stop = (sound: number): LiveEvent =>
      now({ kind: 'stop', frame: 0, sound, fadeSeconds: -1, release: true });
    // A tone that was still to come after a move is withdrawn by its stop (see LiveQueue).
    return [
      stop(held.sound),
      now({
        kind: 'stop',
        frame: 0,
        sound: held.sound + MOVE_SOUND,
        fadeSeconds: MOVE_OUT_SECONDS,
        release: true,
      }),
    ];
  }

  private takeFor(articulation: number, key: number, velocity: number): number {
    const count = this.leads.attack(articulation, key, velocity, 80, 64).length;
    const slot = `${articulation} ${key}`;
    const take = nextTake(++this.count * 2654435761, this.lastTake.get(slot) ?? -1, count);
    this.lastTake.set(slot, take);
    return take;
  }
}

function now(event: EngineEvent): LiveEvent {
  return { afterSeconds: 0, event };
}
