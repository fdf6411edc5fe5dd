import type { ArticulationGroup, Instrument } from '../catalogue/index.ts';
import { Random } from '../dsp/index.ts';
import type { EngineEvent, SampleAudio, StartEvent } from '../engine/index.ts';
import { PITCH_BEND } from '../engine/index.ts';
import {
  compileKeymap,
  initialState,
  paceShare,
  PARAMETERS,
  resolve,
  Responses,
  startSeconds,
  trimSeconds,
  type Answer,
  type CompiledKeymap,
  type Keymap,
  type KeymapEvent,
  type KeymapState,
  type ParameterId,
  type Resolution,
  type Sounding,
  type Voicing,
} from '../keymap/index.ts';
import type { TrackMix } from '../mixing/index.ts';
import { CONTROLLER, type ArticulationId } from '../music/index.ts';
import { Leads } from './leads.ts';
import type { Move } from './moves.ts';
import {
  ALIGN_HOLD_SECONDS,
  ALIGN_MOVE_SECONDS,
  handOverOf,
  IMMEDIATE_LEAD_SECONDS,
  MOVE_OUT_SECONDS,
} from './segment.ts';
import { nextTake } from './takes.ts';
import type { Touch } from './touch.ts';

/** An event that takes effect `afterSeconds` from now. */
export interface LiveEvent {
  afterSeconds: number;
  event: EngineEvent;
}

/** What sounds for a key that is held: one for each articulation that plays it. */
interface Held {
  key: number;
  voices: { sound: number; articulation: number; part: Sounding['part'] }[];
}

/** What a hand plays on: the track's keymap over its instrument. */
export interface LiveSetup {
  keymap: Keymap;
  voicing: Voicing;
  responses?: Responses;
}

const AS_USUAL = new Responses();
/** Fade with which a recording is entered after its beginning. */
const CUT_IN_SECONDS = 0.003;
const NOISES = 'noises';

/** Sounds played by hand are numbered from here, beyond those of any plan. */
const FIRST_LIVE_SOUND = 2_000_000_000;
/** A recorded move is numbered this far above the tone it leads to. */
const MOVE_SOUND = 500_000;
const MOVE_FADE_SECONDS = 0.04;
/** Controllers by which a bank is chosen: its upper, then its lower seven bits. */
const BANK_HIGH = 0;
const BANK_LOW = 32;

/** An articulation that lends its attack is let go after this long, with this fade. */
const ATTACK_SECONDS = 0.12;
const ATTACK_FADE_SECONDS = 0.2;
const BODY_IN_SECONDS = 0.03;

/**
 * Turns what a hand plays on one track into engine events, at once: triggers, takes, pedal, and connected moves in the
 * immediate way.
 */
export class LivePlayer {
  private readonly held = new Map<number, Held>();
  private readonly pedalled = new Set<number>();
  private pedal = false;
  /** Where each parameter's own controller stands, as ridden. */
  private readonly ridden = new Map<ParameterId, number>();
  private responses: Responses;
  private nextSound: number;
  private readonly lastTake = new Map<string, number>();
  private leads: Leads;
  private count = 0;
  private bankHigh = 0;
  private compiled: CompiledKeymap;
  private voicing: Voicing;
  private state: KeymapState;
  /** What the keymap made of the last event, for display. */
  resolution: Resolution;

  /**
   * @param trackIndex the engine's track
   * @param audio loaded recordings by sample id: with them moves are as loud as the tones they lead between
   */
  constructor(
    private readonly instrument: Instrument,
    private readonly trackIndex: number,
    setup: LiveSetup,
    articulation: ArticulationId,
    mix: TrackMix,
    audio?: ReadonlyMap<string, SampleAudio>,
  ) {
    this.compiled = compileKeymap(setup.keymap);
    this.voicing = setup.voicing;
    this.responses = setup.responses ?? AS_USUAL;
    this.state = initialState(setup.keymap, articulation);
    this.resolution = resolve(this.compiled, this.state, { kind: 'choose', articulation });
    this.leads = new Leads(instrument, mix, audio);
    this.nextSound = FIRST_LIVE_SOUND + trackIndex * 1_000_000;
  }

  /** Takes another keymap; what is selected and what sounds stay. */
  setUp({ keymap, voicing, responses = AS_USUAL }: LiveSetup): void {
    this.compiled = compileKeymap(keymap);
    this.voicing = voicing;
    this.responses = responses;
  }

  /** Measures anew by another mix, or more recordings; what is held goes on and is let go as ever. */
  hearBy(mix: TrackMix, audio?: ReadonlyMap<string, SampleAudio>): void {
    this.leads = new Leads(this.instrument, mix, audio);
  }

  /** Value by which a parameter is heard now. */
  private heard(id: ParameterId): number {
    const leader = this.responses.leader(id);
    return this.responses.shape(id, this.ridden.get(leader) ?? this.responses.ride(leader).rest);
  }

  private touch(velocity: number): Touch {
    return { velocity, dynamics: this.heard('dynamics'), vibrato: this.heard('vibrato') };
  }

  /** Chooses an articulation by name. */
  choose(articulation: ArticulationId): void {
    this.hear({ kind: 'choose', articulation });
  }

  /** What sounds for a note of an articulation. */
  answerTo(articulation: ArticulationId, velocity: number): Answer {
    return this.voicing.answer(articulation, velocity);
  }

  /** Articulation that holds now. */
  get articulation(): ArticulationId {
    return this.resolution.articulation;
  }

  /** Keys that sound because a hand or the pedal holds them. */
  get soundingKeys(): number[] {
    return [...this.held.keys()];
  }

  /** Controllers by which a part knows what a controller of a keyboard moves; none where it selects or moves nothing. */
  writtenAs(controller: number): number[] {
    if (this.compiled.listens.has(controller)) return [];
    const moved = this.responses.moved(controller);
    if (moved.length === 0) return this.responses.isGivenUp(controller) ? [] : [controller];
    return PARAMETERS.filter(({ id }) => moved.includes(id)).map((one) => one.controller);
  }

  private hear(event: KeymapEvent): Resolution {
    this.resolution = resolve(this.compiled, this.state, event);
    this.state = this.resolution.state;
    return this.resolution;
  }

  /** Takes a channel message (note, controller, program, pitch bend); other messages give nothing. */
  message(status: number, data1: number, data2: number): LiveEvent[] {
    switch (status & 0xf0) {
      case 0x90:
        return data2 > 0 ? this.noteOn(data1, data2, status & 0x0f) : this.noteOff(data1);
      case 0x80:
        return this.noteOff(data1);
      case 0xb0:
        return this.controller(data1, data2);
      case 0xc0:
        this.hear({ kind: 'program', program: data1 });
        return [];
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

  /** @param channel MIDI channel from 0 */
  noteOn(key: number, velocity: number, channel = 0): LiveEvent[] {
    const { taken, articulation } = this.hear({ kind: 'press', channel, key, velocity });
    if (taken) return [];
    const events = this.end(key);
    const from = [...this.held.values()].at(-1);
    const played: Held = { key, voices: [] };
    for (const sounding of this.voicing.answer(articulation, velocity))
      events.push(...this.sound(sounding, key, velocity, from, played));
    this.held.set(key, played);
    this.pedalled.delete(key);
    return events;
  }

  /** Starts one of the articulations that play a key. */
  private sound(
    sounding: Sounding,
    key: number,
    velocity: number,
    from: Held | undefined,
    played: Held,
  ): LiveEvent[] {
    const { index, morph, part, term } = sounding;
    const group = this.voicing.repertoire.groupOf(index);
    const connects = part !== 'attack' && group === 'connected';
    const struck = this.responses.struck(group, velocity, this.heard('dynamics'));
    const levelDb = sounding.levelDb + struck.levelDb;
    const before = connects
      ? from?.voices.find((voice) => voice.articulation === index && voice.part !== 'attack')
      : undefined;
    const move = before && from && this.moveTo(index, from.key, key, velocity);
    const cut = move ? 0 : this.cutOf(group);
    const sound = this.nextSound++;
    played.voices.push({ sound, articulation: index, part });
    const start: StartEvent = {
      kind: 'start',
      frame: 0,
      track: this.trackIndex,
      sound,
      articulation: index,
      role: 'attack',
      key,
      velocity: struck.velocity,
      fromKey: key,
      take: this.takeFor(index, key, struck.velocity),
      offsetSeconds: cut,
      fadeInSeconds: cut > 0 ? CUT_IN_SECONDS : 0,
      ...(term === NOISES ? { noise: true } : {}),
      ...(levelDb === 0 ? {} : { levelDb }),
      ...(morph ? { morph } : {}),
    };
    if (before && from && move) {
      from.voices.splice(from.voices.indexOf(before), 1);
      if (!from.voices.some((voice) => voice.part !== 'attack')) this.held.delete(from.key);
      return this.moveOn(start, move.articulation, move.move, before.sound, from.key);
    }
    if (part === 'attack')
      return [
        now(start),
        {
          afterSeconds: ATTACK_SECONDS,
          event: {
            kind: 'stop',
            frame: 0,
            track: this.trackIndex,
            sound,
            fadeSeconds: ATTACK_FADE_SECONDS,
            release: false,
          },
        },
      ];
    if (part === 'body') {
      const { dynamics, vibrato } = this.touch(velocity);
      const [lead] = this.leads.attack(index, key, velocity, dynamics, vibrato);
      return [now({ ...start, offsetSeconds: lead, fadeInSeconds: BODY_IN_SECONDS })];
    }
    return [now(start)];
  }

  /** The move that leads to a key: a slide when it is struck softly, a new bow when hard, else the articulation's own. */
  private moveTo(
    index: number,
    fromKey: number,
    key: number,
    velocity: number,
  ): { articulation: number; move: Move } | undefined {
    const { slideBelow, bowFrom } = this.responses.touch;
    const { repertoire } = this.voicing;
    const kinds = [
      ...(velocity <= slideBelow ? [repertoire.ownIndex('slide')] : []),
      ...(bowFrom > 0 && velocity >= bowFrom ? [repertoire.ownIndex('bow change')] : []),
      index,
    ];
    for (const articulation of kinds) {
      const move = articulation < 0 ? undefined : this.leads.move(articulation, fromKey, key);
      if (move) return { articulation, move };
    }
    return undefined;
  }

  /** How far into its recording a note is entered. */
  private cutOf(group: ArticulationGroup): number {
    if (group === 'short') return trimSeconds(this.heard('trim'));
    // Every note is another one; the count of notes is the seed.
    return group === 'long' ? new Random(this.count).next() * startSeconds(this.heard('start')) : 0;
  }

  /** Goes on from a sounding tone by a recorded move, of which the last moment before its landing is heard. */
  private moveOn(
    start: StartEvent,
    moving: number,
    move: Move,
    before: number,
    fromKey: number,
  ): LiveEvent[] {
    const { articulation, key, velocity, sound } = start;
    const heard = Math.min(move.leadSeconds, IMMEDIATE_LEAD_SECONDS * paceShare(this.heard('pace')));
    const { afterSeconds, overSeconds } = handOverOf(move);
    const levelsDb = this.leads.matched(
      move,
      move.leadSeconds - heard,
      [articulation, fromKey],
      [articulation, key],
      this.touch(velocity),
    );
    return [
      // Both the old tone, begun or still to come, and the move that led to it.
      ...[before, before + MOVE_SOUND].map((old) =>
        now({
          kind: 'stop',
          frame: 0,
          track: this.trackIndex,
          sound: old,
          fadeSeconds: MOVE_FADE_SECONDS,
          release: false,
        }),
      ),
      now({
        ...start,
        sound: sound + MOVE_SOUND,
        articulation: moving,
        role: 'transition',
        fromKey,
        offsetSeconds: move.leadSeconds - heard,
        fadeInSeconds: MOVE_FADE_SECONDS,
        joins: before,
        alignSeconds: ALIGN_MOVE_SECONDS,
        levelsDb,
      }),
      {
        afterSeconds: heard + afterSeconds,
        event: {
          kind: 'stop',
          frame: 0,
          track: this.trackIndex,
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
    ];
  }

  noteOff(key: number): LiveEvent[] {
    if (this.hear({ kind: 'release', key }).taken) return [];
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
    const isBank = controller === BANK_HIGH || controller === BANK_LOW;
    // A keymap may listen to them for itself.
    if (isBank && !this.compiled.listens.has(controller)) {
      if (controller === BANK_HIGH) this.bankHigh = value;
      else this.hear({ kind: 'bank', bank: this.bankHigh * 128 + value });
      return [];
    }
    this.hear({ kind: 'control', controller, value });
    if (controller === CONTROLLER.pedal) {
      this.pedal = value >= 64;
      if (this.pedal) return [];
      const keys = [...this.pedalled];
      this.pedalled.clear();
      return keys.flatMap((key) => this.end(key));
    }
    if (controller === 120 || controller === 123) return this.allOff();
    const moved = this.responses.moved(controller);
    if (moved.length === 0)
      return this.responses.isGivenUp(controller) ? [] : [this.control(controller, value)];
    for (const id of moved) this.ridden.set(id, value);
    // What is ridden, and what follows it.
    const heard = new Set(moved.flatMap((id) => this.responses.led(id)));
    return PARAMETERS.filter(({ id }) => heard.has(id)).map((one) =>
      this.control(one.controller, this.heard(one.id)),
    );
  }

  private control(controller: number, value: number): LiveEvent {
    return now({ kind: 'control', frame: 0, track: this.trackIndex, controller, value });
  }

  private end(key: number): LiveEvent[] {
    const held = this.held.get(key);
    if (!held) return [];
    this.held.delete(key);
    this.pedalled.delete(key);
    // A tone that was still to come after a move is withdrawn by its stop (see LiveQueue).
    return held.voices
      .filter(({ part }) => part !== 'attack')
      .flatMap(({ sound }) => [
        now({ kind: 'stop', frame: 0, track: this.trackIndex, sound, fadeSeconds: -1, release: true }),
        now({
          kind: 'stop',
          frame: 0,
          track: this.trackIndex,
          sound: sound + MOVE_SOUND,
          fadeSeconds: MOVE_OUT_SECONDS,
          release: true,
        }),
      ]);
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
