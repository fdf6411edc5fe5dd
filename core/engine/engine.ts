import type { Zone } from '../catalogue/index.ts';
import { unreachable } from '../errors/index.ts';
import { LoudnessMeter, type HallResponse } from '../dsp/index.ts';
import { levelGain, type HallMix } from '../mixing/index.ts';
import { ENGINE_RATE, exp10 } from '../units/index.ts';
import type { ControlEvent, EngineEvent, StartEvent, StopEvent } from './events.ts';
import { HallConvolver } from './hall.ts';
import { compareVoices, type Hearing } from './joining.ts';
import { kernelIn, type Kernel } from './kernel/index.ts';
import { ownSoundMemory, type SoundMemory } from './memory/index.ts';
import type { PreparedZone } from './prepared.ts';
import { EngineTrack } from './track.ts';
import { BLOCK, FILTER_BYTES, FRAME_BYTES, MAX_POSITIONS, VoiceRenderer } from './voice-renderer.ts';
import { Voice } from './voice.ts';
import { wander } from './wander.ts';

/** Fade of a voice that is given up for a new one. */
const STEAL_FRAMES = 256;
/** Fade of a sound that another of its group cuts off. */
const CUT_SECONDS = 0.006;
/** Crossfade in which the recorded end of a note takes over from it, and how far it may be moved for it. */
const RELEASE_OVER_SECONDS = 0.04;
const RELEASE_ALIGN_SECONDS = 0.012;
/** A recorded end whose wave is this like the note's goes on with its tone. */
const TONE_LIKENESS = 0.25;
/** A recorded end is raised by no more than this, as a factor. */
const MOST_RELEASE_GAIN = 2;
/** Voices kept for fading out what had to give way. */
const SPARE_VOICES = 48;

/** Adds frames [from, to) to the output. */
export interface Joining {
  process(left: Float32Array, right: Float32Array, from: number, to: number): void;
}

/** The sampler: tracks, voices, buses and hall. One `render` serves live playing, bounces and measurements. */
export class Engine {
  readonly rate = ENGINE_RATE;
  readonly tracks: EngineTrack[] = [];
  readonly meter = new LoudnessMeter(ENGINE_RATE);
  /** Frames rendered since the last reset. */
  frame = 0;
  /** Sound from elsewhere that joins the output and its meter, for example renderings that are compared. */
  joining: Joining | null = null;
  /** Voices given up because all were taken, since the last read. */
  stolen = 0;

  private readonly voices: Voice[] = [];
  private hall: HallConvolver | null = null;
  private hallMix: HallMix = { earlyDb: 0, tailDb: 0 };
  private readonly kernel: Kernel;
  private readonly room: (bytes: number) => number;
  private readonly renderer: VoiceRenderer;
  /** Addresses of a block each: the sum, what the hall is given, and both of one track. */
  private readonly master: number;
  private readonly hallIn: number;
  private readonly trackOut: number;
  private readonly trackHall: number;
  private readonly leftOut: Float32Array;
  private readonly rightOut: Float32Array;
  private readonly split: number;
  private events: readonly EngineEvent[] = [];
  private next = 0;
  /** Frames since the last reset, whatever loops there were. */
  private clock = 0;
  private started = 0;
  /** Reused for the recorded ends of notes. They end by themselves; no later stop may find them. */
  private readonly releaseEvent: StartEvent = {
    kind: 'start',
    frame: 0,
    track: 0,
    sound: -1,
    articulation: 0,
    role: 'release',
    key: 0,
    velocity: 64,
    fromKey: 0,
    take: 0,
    offsetSeconds: 0,
    fadeInSeconds: 0,
  };

  /**
   * @param maxVoices voices that may sound at once
   * @param sound the memory it works in; its recordings must lie there too
   */
  constructor(
    maxVoices = 256,
    private readonly sound: SoundMemory = ownSoundMemory(),
  ) {
    this.kernel = kernelIn(sound.memory);
    this.room = sound.roomOf(this);
    this.renderer = new VoiceRenderer(sound, this.room);
    const filters = this.room((maxVoices + SPARE_VOICES) * FILTER_BYTES);
    for (let i = 0; i < maxVoices + SPARE_VOICES; i++)
      this.voices.push(new Voice(filters + i * FILTER_BYTES));
    const block = BLOCK * FRAME_BYTES;
    this.master = this.room(5 * block);
    this.hallIn = this.master + block;
    this.trackOut = this.master + 2 * block;
    this.trackHall = this.master + 3 * block;
    this.split = this.master + 4 * block;
    this.leftOut = sound.floats(this.split, BLOCK);
    this.rightOut = sound.floats(this.split + block / 2, BLOCK);
  }

  /** Makes sure that tracks 0 … count − 1 exist. Allocates. */
  ensureTracks(count: number): void {
    while (this.tracks.length < count) this.tracks.push(new EngineTrack(this.sound, this.room));
  }

  setHall(response: HallResponse): void {
    this.hall = new HallConvolver(this.sound, response);
    this.setHallMix(this.hallMix);
    this.hall.reset();
  }

  setHallMix(mix: HallMix): void {
    this.hallMix = mix;
    this.hall?.setGains(levelGain(mix.earlyDb), levelGain(mix.tailDb));
  }

  /** Takes a whole list of events in order of frame; those before the present frame are passed over. */
  setEvents(events: readonly EngineEvent[]): void {
    this.events = events;
    this.next = 0;
    while (this.next < events.length && events[this.next].frame < this.frame) this.next++;
  }

  /** Silence and frame 0: the state in which every performance begins, live or bounced. */
  reset(): void {
    for (const voice of this.voices) voice.cut();
    for (const track of this.tracks) track.reset();
    this.hall?.reset();
    this.meter.reset();
    this.frame = 0;
    this.clock = 0;
    this.next = 0;
    this.stolen = 0;
  }

  /** Goes back to frame 0 of the event list while what sounds rings on: the seam of a loop. */
  rewind(): void {
    this.frame = 0;
    this.next = 0;
  }

  /** Lets go of everything that sounds, or of one track's sounds, with a fade. */
  stopAll(fadeSeconds: number, track?: number): void {
    for (const voice of this.voices)
      if (!voice.idle && (track === undefined || voice.track === track))
        voice.stop(fadeSeconds * this.rate, this.rate);
  }

  /** Puts an event into effect now. Also used for live playing. */
  apply(event: EngineEvent): void {
    switch (event.kind) {
      case 'start':
        this.startSound(event);
        break;
      case 'stop':
        this.stopSound(event);
        break;
      case 'control':
        this.control(event);
        break;
      default:
        unreachable(event);
    }
  }

  /** Number of voices that sound. */
  get voiceCount(): number {
    let count = 0;
    for (const voice of this.voices) if (!voice.idle) count++;
    return count;
  }

  /** Calls back for each sounding voice of a track with its key and the zone heard most, for display. */
  eachVoice(track: number, visit: (key: number, zone: Zone) => void): void {
    for (const voice of this.voices)
      if (!voice.idle && !voice.ending && voice.track === track) visit(voice.key, voice.foremost);
  }

  /** Renders the next 128 frames into `outLeft` and `outRight`, overwriting them. */
  render(outLeft: Float32Array, outRight: Float32Array): void {
    const { kernel } = this;
    kernel.clear(this.master, BLOCK * FRAME_BYTES);
    kernel.clear(this.hallIn, BLOCK * FRAME_BYTES);
    for (const track of this.tracks) track.glideControllers();
    let from = 0;
    while (from < BLOCK) {
      let to = BLOCK;
      while (this.next < this.events.length) {
        const event = this.events[this.next];
        const at = event.frame - this.frame;
        if (at > from) {
          to = Math.min(BLOCK, at);
          break;
        }
        this.next++;
        this.apply(event);
      }
      this.renderVoices(from, to);
      from = to;
    }
    for (const track of this.tracks)
      if (track.render(this.trackOut, this.trackHall)) {
        kernel.add(this.trackOut, this.master, BLOCK);
        kernel.add(this.trackHall, this.hallIn, BLOCK);
      }
    this.hall?.process(this.hallIn, this.master);
    kernel.split(this.master, this.split, this.split + BLOCK * 4, BLOCK);
    outLeft.set(this.leftOut);
    outRight.set(this.rightOut);
    this.joining?.process(outLeft, outRight, 0, BLOCK);
    this.meter.process(outLeft, outRight, 0, BLOCK);
    this.frame += BLOCK;
    this.clock += BLOCK;
  }

  private renderVoices(from: number, to: number): void {
    for (const track of this.tracks) track.sounding = 0;
    for (const voice of this.voices) {
      if (voice.idle) continue;
      const track = this.tracks[voice.track];
      if (!track.instrument) {
        voice.cut();
        continue;
      }
      track.sounding++;
      const heard = track.isAudible;
      if (heard) track.fed = true;
      const bend = track.bendCents + this.driftOf(voice.key, track);
      voice.render(this.renderer, track.buses, heard, from, to - from, track.controllers, bend, this.rate);
      voice.energy *= track.power;
    }
  }

  /** How far the pitch of a key has wandered, in cents. */
  private driftOf(key: number, track: EngineTrack): number {
    const most = track.driftCents;
    return most === 0 ? 0 : most * wander(this.clock / this.rate, key);
  }

  private control(event: ControlEvent): void {
    const track = this.tracks[event.track];
    if (!track) return;
    track.targets[event.controller] = event.value;
  }

  private startSound(event: StartEvent): void {
    const articulation = this.tracks[event.track]?.instrument?.articulations[event.articulation];
    if (!articulation) return;
    const track = this.tracks[event.track];
    if (event.morph) track.follow(event.morph.controller);
    if (track.sounding === 0) track.controllers.set(track.targets);
    const zones = articulation[event.role][event.key];
    if (zones === undefined || zones.length === 0) return;
    this.startChains(zones, event, track, 1);
  }

  /** Starts a voice for every chain among the zones that fit. */
  private startChains(
    zones: readonly PreparedZone[],
    event: StartEvent,
    track: EngineTrack,
    level: number,
  ): void {
    const joined = this.isJoined(event);
    const old = event.joins === undefined ? undefined : this.soundingOf(event.joins);
    for (let i = 0; i < zones.length; i++) {
      if (isLaterOfChain(zones, i)) continue;
      const voice = this.freeVoice();
      if (!voice.start(zones, zones[i].chain, event, track.targets, joined, level, this.rate)) continue;
      if (event.role === 'attack' && event.joins === undefined)
        voice.shapeAttack(track.attackSeconds * this.rate, track.riseShare);
      if (event.noise) voice.scale(track.noiseGain);
      voice.track = event.track;
      voice.sound = event.sound;
      voice.articulation = event.articulation;
      voice.order = this.started++;
      if (old && old !== voice && old.track === event.track) this.join(voice, old, event, track);
      this.makeRoomFor(voice);
    }
  }

  private readonly hearing: Hearing = {
    loudness: new Float64Array(MAX_POSITIONS),
    positions: 0,
    controllers: new Float64Array(0),
    bendCents: 0,
  };

  /**
   * What is heard of a track now, by the two positions heard most: reading all of them would take as long as a block lasts.
   * The object is used again.
   */
  private hearingOf(track: EngineTrack): Hearing {
    let most = 0;
    let second = 0;
    for (let p = 0; p < MAX_POSITIONS; p++) {
      const loudness = track.buses[p]?.loudness ?? 0;
      this.hearing.loudness[p] = loudness;
      if (loudness > most) [second, most] = [most, loudness];
      else if (loudness > second) second = loudness;
    }
    let left = 2;
    for (let p = 0; p < MAX_POSITIONS; p++)
      if (this.hearing.loudness[p] < second || left-- <= 0) this.hearing.loudness[p] = 0;
    this.hearing.positions = track.buses.length;
    this.hearing.controllers = track.controllers;
    this.hearing.bendCents = track.bendCents;
    return this.hearing;
  }

  private join(voice: Voice, old: Voice, event: StartEvent, track: EngineTrack): void {
    const hearing = this.hearingOf(track);
    const over = event.fadeInSeconds * this.rate;
    const align = (event.alignSeconds ?? 0) * this.rate;
    const { likeness, shiftFrames } = compareVoices(old, voice, over, align, hearing);
    voice.takeOver(old, likeness, shiftFrames, hearing);
  }

  /** The newest voice of a sound, whether it is held or fades: after the seam of a loop an older one may still ring. */
  private soundingOf(sound: number): Voice | undefined {
    let newest: Voice | undefined;
    for (const voice of this.voices)
      if (!voice.idle && voice.sound === sound && (!newest || voice.order > newest.order)) newest = voice;
    return newest;
  }

  /** Whether another note of the track is held. */
  private isJoined(event: StartEvent): boolean {
    for (const voice of this.voices)
      if (
        !voice.idle &&
        !voice.ending &&
        voice.track === event.track &&
        voice.role === 'attack' &&
        voice.sound !== event.sound &&
        !voice.leading.oneShot
      )
        return true;
    return false;
  }

  /** Groups that cut each other, and the number of sounds an instrument allows itself. */
  private makeRoomFor(voice: Voice): void {
    const { group, polyphony, keyPolyphony } = voice.leading;
    if (group !== undefined)
      for (const other of this.voices)
        if (
          !other.idle &&
          !other.ending &&
          other.track === voice.track &&
          other.sound !== voice.sound &&
          other.leading.offBy === group
        )
          other.stop((other.leading.offSeconds ?? CUT_SECONDS) * this.rate, this.rate);
    if (polyphony !== undefined) this.keepNewest(voice, polyphony, false);
    if (keyPolyphony !== undefined) this.keepNewest(voice, keyPolyphony, true);
  }

  /** Ends the oldest sounds of the same group (and key) beyond `most`. */
  private keepNewest(voice: Voice, most: number, sameKey: boolean): void {
    for (;;) {
      let oldest: Voice | undefined;
      let count = 0;
      for (const other of this.voices) {
        const same =
          !other.idle &&
          !other.ending &&
          other.track === voice.track &&
          other.leading.group === voice.leading.group &&
          (!sameKey || other.key === voice.key);
        if (!same) continue;
        count++;
        if (other.sound !== voice.sound && (!oldest || other.order < oldest.order)) oldest = other;
      }
      if (count <= most || !oldest) return;
      oldest.stop(CUT_SECONDS * this.rate, this.rate);
    }
  }

  private stopSound(event: StopEvent): void {
    for (const voice of this.voices) {
      if (voice.idle || voice.ending || voice.sound !== event.sound) continue;
      const fade = event.fadeSeconds < 0 ? -1 : event.fadeSeconds * this.rate;
      const taken = event.release && voice.wantsRelease && this.startRelease(voice);
      const over = RELEASE_OVER_SECONDS * this.rate;
      const scale = this.tracks[voice.track].releaseScale;
      voice.stop(taken && (fade < 0 || fade > over) ? over : fade, this.rate, scale);
    }
  }

  /** Plays the recorded end of a note. @returns whether it takes the tone over, so that the note is to make way */
  private startRelease(from: Voice): boolean {
    const track = this.tracks[from.track];
    const zones = track.instrument?.articulations[from.articulation]?.release[from.key];
    if (zones === undefined || zones.length === 0 || track.endsGain === 0) return false;
    const event = this.releaseEvent;
    event.levelsDb = track.endsFade;
    event.track = from.track;
    event.articulation = from.articulation;
    event.key = event.fromKey = from.key;
    event.velocity = from.velocity;
    event.morph = from.morph ?? undefined;
    const decay = zones[0].zone.decayDbPerSecond ?? 0;
    const level =
      from.level * from.sourceGain * (decay === 0 ? 1 : exp10((-decay * from.ageFrames) / this.rate / 20));
    const first = this.started;
    this.startChains(zones, event, track, level);
    let taken = false;
    for (const voice of this.voices) {
      if (voice.order < first || voice.idle) continue;
      const takes = this.takesTone(voice, from, track);
      // What is unlike the tone is a noise: of a damper, a key, a breath.
      voice.scale(track.endsGain * (takes ? 1 : track.noiseGain));
      if (takes) taken = true;
    }
    return taken;
  }

  /**
   * Lets a recorded end that goes on with the note's own tone take over from it: in step, under a crossfade, at the level
   * the note has. What is unlike it, such as the noise of a damper, only joins it.
   */
  private takesTone(voice: Voice, from: Voice, track: EngineTrack): boolean {
    const hearing = this.hearingOf(track);
    const over = RELEASE_OVER_SECONDS * this.rate;
    const found = compareVoices(from, voice, over, RELEASE_ALIGN_SECONDS * this.rate, hearing);
    if (found.likeness < TONE_LIKENESS || found.powerRatio === 0) return false;
    voice.takeOver(from, found.likeness, found.shiftFrames, hearing);
    voice.fadeIn(over, Math.min(MOST_RELEASE_GAIN, Math.sqrt(found.powerRatio)));
    return true;
  }

  /**
   * An idle voice. When the allowed number sounds already, the quietest is told to fade; spare voices
   * carry such fades, so that giving up never clicks.
   */
  private freeVoice(): Voice {
    let idle: Voice | undefined;
    let quietest: Voice | undefined;
    let sounding = 0;
    for (const voice of this.voices) {
      if (voice.idle) idle ??= voice;
      else if (!voice.ending) {
        sounding++;
        if (!quietest || voice.energy < quietest.energy) quietest = voice;
      }
    }
    if (quietest && sounding >= this.voices.length - SPARE_VOICES) {
      quietest.stop(STEAL_FRAMES, this.rate);
      this.stolen++;
    }
    if (idle) return idle;
    let last = this.voices[0];
    for (const voice of this.voices) if (voice.level < last.level) last = voice;
    last.cut();
    return last;
  }
}

/** True when a zone before this one belongs to the same chain. */
function isLaterOfChain(zones: readonly PreparedZone[], at: number): boolean {
  for (let i = 0; i < at; i++) if (zones[i].chain === zones[at].chain) return true;
  return false;
}
