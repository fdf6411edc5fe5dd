import type { Zone } from '../catalogue/index.ts';
import { unreachable } from '../errors/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import type { ControlEvent, EngineEvent } from './events.ts';
import { ownSoundMemory, type SoundMemory } from './memory/index.ts';
import { EngineTrack } from './track.ts';
import { TrackVoices } from './track-voices.ts';
import { VoicePool } from './voice-pool.ts';
import type { Voice } from './voice.ts';
import { BLOCK, FRAME_BYTES, VoiceRenderer } from './voice-renderer.ts';

/** Voices that one track may have at once. */
export const TRACK_VOICES = 256;
/** Voices made ready for what hands play, and for fades. */
const READY_VOICES = 128;

/** A start that comes later than this is not worth beginning: 0.1 s. */
const LATEST_FRAMES = ENGINE_RATE / 10;

/** Events that are over are forgotten when there are so many. */
const MOST_PASSED = 4096;

/** A voice that was given up: of which track and key, and whether the track had too many or all together. */
export interface GivenUp {
  track: number;
  key: number;
  why: 'track' | 'machine';
}

/** Takes a block of one track: addresses of what is heard of it and what goes to the hall, stereo frames. */
export type TakeTrack = (index: number, sound: number, hall: number) => void;

/**
 * Tracks and what plays on them: takes events and gives a block of each track that is not silent. Tracks know nothing of each
 * other; some of them may be played here and others elsewhere.
 */
export class Players {
  readonly rate = ENGINE_RATE;
  readonly tracks: EngineTrack[] = [];
  /** Frames rendered since the last reset. */
  frame = 0;
  /** Voices that may sound at once on all tracks; what is heard least gives way. For live playing only: a bounce has the time. */
  voiceLimit = Infinity;

  private readonly room: (bytes: number) => number;
  private readonly pool: VoicePool;
  private readonly renderer: VoiceRenderer;
  private readonly voices: TrackVoices[] = [];
  /** Addresses of a block each: what is heard of a track, and what goes to the hall. */
  private readonly out: number;
  private readonly hall: number;
  /** Events to come, by track, and which of them is next: what happens on one track leaves the others as they are. */
  private readonly events: EngineEvent[][] = [];
  private readonly next: number[] = [];
  private givenUp = 0;
  private last: GivenUp | null = null;

  /**
   * @param trackVoices voices that one track may have at once
   * @param sound the memory it works in; its recordings must lie there too
   */
  constructor(
    private readonly trackVoices = TRACK_VOICES,
    private readonly sound: SoundMemory = ownSoundMemory(),
  ) {
    this.room = sound.roomOf(this);
    this.pool = new VoicePool(this.room);
    this.pool.prepare(READY_VOICES);
    this.renderer = new VoiceRenderer(sound, this.room);
    this.out = this.room(2 * (BLOCK + 2) * FRAME_BYTES);
    this.hall = this.out + (BLOCK + 2) * FRAME_BYTES;
  }

  /** Makes so many voices ready, so that none has to be made while it renders. Allocates. */
  prepareVoices(count: number): void {
    this.pool.prepare(count - this.voiceCount);
  }

  /** Makes sure that tracks 0 … count − 1 exist. Allocates. */
  ensureTracks(count: number): void {
    while (this.tracks.length < count) {
      const track = new EngineTrack(this.sound, this.room);
      this.tracks.push(track);
      this.voices.push(new TrackVoices(track, this.pool, this.trackVoices, this.rate));
      this.events.push([]);
      this.next.push(0);
    }
  }

  /** Takes a whole list of events in order of frame, in place of those it has. */
  setEvents(events: readonly EngineEvent[]): void {
    for (const list of this.events) list.length = 0;
    this.next.fill(0);
    this.addEvents(events);
  }

  /**
   * Takes more events, in order of frame and behind those it has. Starts that come late are begun at once, unless their sound sounds
   * already; those that come much too late are passed over. Ends and controllers always count, or what sounds would sound for ever.
   */
  addEvents(events: readonly EngineEvent[]): void {
    for (const event of events) {
      const late = this.frame - event.frame;
      if (event.kind === 'start' && late > 0)
        if (late > LATEST_FRAMES || this.voices[event.track]?.sounds(event.sound)) continue;
      this.events[event.track]?.push(event);
    }
    for (let track = 0; track < this.events.length; track++) {
      if (this.next[track] < MOST_PASSED) continue;
      this.events[track].splice(0, this.next[track]);
      this.next[track] = 0;
    }
  }

  /** Forgets what is to come on a track from a frame on. */
  dropEvents(track: number, from: number): void {
    const list = this.events[track];
    if (!list) return;
    let end = list.length;
    while (end > this.next[track] && list[end - 1].frame >= from) end--;
    list.length = end;
  }

  /** Silence and frame 0, or another: the state in which every performance begins, live or bounced. */
  reset(frame = 0): void {
    for (const voices of this.voices) {
      voices.cut();
      voices.stolen = 0;
    }
    for (const track of this.tracks) track.reset();
    this.frame = frame;
    this.next.fill(0);
    this.givenUp = 0;
  }

  /** Lets go of everything that sounds, or of one track's sounds, with a fade. */
  stopAll(fadeSeconds: number, track?: number): void {
    for (let i = 0; i < this.voices.length; i++)
      if (track === undefined || track === i) this.voices[i].stopAll(fadeSeconds);
  }

  /** Puts an event into effect now. Also used for live playing. */
  apply(event: EngineEvent): void {
    switch (event.kind) {
      case 'start':
        this.voices[event.track]?.start(event);
        break;
      case 'stop':
        this.voices[event.track]?.stop(event);
        break;
      case 'control':
        this.control(event);
        break;
      case 'keep':
        this.voices[event.track]?.keep(event);
        break;
      default:
        unreachable(event);
    }
  }

  private control(event: ControlEvent): void {
    this.tracks[event.track]?.setControl(event.controller, event.value);
  }

  /** Number of voices that sound. */
  get voiceCount(): number {
    let count = 0;
    for (const voices of this.voices) count += voices.count;
    return count;
  }

  /** Work that a track is now: its voices, by as many positions as they are heard from. */
  weightOf(track: number): number {
    return (this.voices[track]?.count ?? 0) * (this.tracks[track]?.buses.length ?? 0);
  }

  /** Voices given up because too many sounded, since the last reset. */
  get stolen(): number {
    let sum = this.givenUp;
    for (const voices of this.voices) sum += voices.stolen;
    return sum;
  }

  /** Calls back for each sounding voice of a track with its key and the zone heard most, for display. */
  eachVoice(track: number, visit: (key: number, zone: Zone) => void): void {
    this.voices[track]?.each(visit);
  }

  /** What was given up last, since this was asked before; null when nothing was. */
  takeGivenUp(): GivenUp | null {
    const { last } = this;
    this.last = null;
    for (let track = 0; track < this.voices.length; track++) {
      const key = this.voices[track].lastStolenKey;
      if (key < 0) continue;
      this.voices[track].lastStolenKey = -1;
      return { track, key, why: 'track' };
    }
    return last;
  }

  /** Gives up what is heard least until no more than the limit sound, apart from those that end already. */
  private limitVoices(): void {
    if (this.voiceLimit === Infinity) return;
    let over = -this.voiceLimit;
    for (const voices of this.voices) over += voices.heldCount;
    for (; over > 0; over--) {
      let track = -1;
      let least: Voice | undefined;
      for (let i = 0; i < this.voices.length; i++) {
        const voice = this.voices[i].leastHeard;
        if (voice && (!least || voice.energy < least.energy)) {
          track = i;
          least = voice;
        }
      }
      if (!least) return;
      this.voices[track].giveUp(least);
      this.givenUp++;
      this.last = { track, key: least.key, why: 'machine' };
    }
  }

  /** Renders the next 128 frames and hands over the tracks that are not silent, in order. */
  render(take: TakeTrack): void {
    this.limitVoices();
    const seconds = this.frame / this.rate;
    for (let i = 0; i < this.tracks.length; i++) {
      this.renderTrack(i, seconds, true);
      if (this.tracks[i].render(this.out, this.hall)) take(i, this.out, this.hall);
    }
    this.frame += BLOCK;
  }

  /** Goes on by 128 frames that nobody hears: quicker than rendering them. */
  pass(): void {
    const seconds = this.frame / this.rate;
    for (let i = 0; i < this.tracks.length; i++) this.renderTrack(i, seconds, false);
    this.frame += BLOCK;
  }

  /** Renders one track's voices from event to event. */
  private renderTrack(index: number, seconds: number, heard: boolean): void {
    const events = this.events[index];
    const voices = this.voices[index];
    const { frame } = this;
    let next = this.next[index];
    this.tracks[index].glideControllers();
    let from = 0;
    while (from < BLOCK) {
      let to = BLOCK;
      while (next < events.length) {
        const at = events[next].frame - frame;
        if (at > from) {
          to = Math.min(BLOCK, at);
          break;
        }
        this.apply(events[next++]);
      }
      voices.render(this.renderer, from, to, seconds, heard);
      from = to;
    }
    this.next[index] = next;
  }
}
