import type { Zone } from '../catalogue/index.ts';
import { exp10 } from '../units/index.ts';
import { FIRST_PLANNED_SOUND, type KeepEvent, type StartEvent, type StopEvent } from './events.ts';
import { compareVoices, type Hearing } from './joining.ts';
import type { PreparedZone } from './prepared.ts';
import type { EngineTrack } from './track.ts';
import type { VoicePool } from './voice-pool.ts';
import { MAX_POSITIONS, type VoiceRenderer } from './voice-renderer.ts';
import type { Voice } from './voice.ts';
import { wander } from './wander.ts';

/** Fade of a voice that is given up for a new one. */
const STEAL_FRAMES = 256;
/** Fade of a sound that another of its group cuts off. */
const CUT_SECONDS = 0.006;
/** Fade of what a changed plan, or the seam of a loop, does not go on with. */
const LET_GO_SECONDS = 0.12;
/** Crossfade in which the recorded end of a note takes over from it, and how far it may be moved for it. */
const RELEASE_OVER_SECONDS = 0.04;
const RELEASE_ALIGN_SECONDS = 0.012;
/** A recorded end whose wave is this like the note's goes on with its tone. */
const TONE_LIKENESS = 0.25;
/** A recorded end is raised by no more than this, as a factor. */
const MOST_RELEASE_GAIN = 2;

/**
 * The voices of one track: what starts, what ends, and what gives way to what. Nothing of it depends on other tracks, so that a
 * track sounds the same wherever it is rendered, alone or among others.
 */
export class TrackVoices {
  /** Voices given up because all the track may have were taken, and the key of the last. */
  stolen = 0;
  lastStolenKey = -1;
  /** Those that sound, in the order in which they began. */
  private readonly list: Voice[] = [];
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
  private readonly hearing: Hearing = {
    loudness: new Float64Array(MAX_POSITIONS),
    positions: 0,
    controllers: new Float64Array(0),
    bendCents: 0,
  };

  /** @param most voices that may sound at once, apart from those that end */
  constructor(
    private readonly track: EngineTrack,
    private readonly pool: VoicePool,
    private readonly most: number,
    private readonly rate: number,
  ) {}

  /** Number of voices that sound. */
  get count(): number {
    return this.list.length;
  }

  /** Number of voices that sound and do not end. */
  get heldCount(): number {
    let count = 0;
    for (const voice of this.list) if (!voice.ending) count++;
    return count;
  }

  /** Calls back for each sounding voice that does not end, with its key and the zone heard most. */
  each(visit: (key: number, zone: Zone) => void): void {
    for (const voice of this.list) if (!voice.ending) visit(voice.key, voice.foremost);
  }

  /** Whether a sound is held. */
  sounds(sound: number): boolean {
    for (const voice of this.list) if (!voice.ending && voice.sound === sound) return true;
    return false;
  }

  /** The voice that is heard least of those that do not end; undefined when there is none. */
  get leastHeard(): Voice | undefined {
    let least: Voice | undefined;
    for (const voice of this.list)
      if (!voice.ending && (!least || voice.energy < least.energy)) least = voice;
    return least;
  }

  /** Lets a voice go, too fast to be in the way and too slowly to click. */
  giveUp(voice: Voice): void {
    voice.stop(STEAL_FRAMES, this.rate);
  }

  /** Silence at once. */
  cut(): void {
    for (const voice of this.list) this.pool.giveBack(voice);
    this.list.length = 0;
  }

  /** Lets go of everything with a fade. */
  stopAll(fadeSeconds: number): void {
    for (const voice of this.list) voice.stop(fadeSeconds * this.rate, this.rate);
  }

  /** Lets go of what was planned and does not go on; what hands play stays. */
  keep(event: KeepEvent): void {
    for (const voice of this.list)
      if (voice.sound >= FIRST_PLANNED_SOUND && !event.sounds.includes(voice.sound))
        voice.stop(LET_GO_SECONDS * this.rate, this.rate);
  }

  /**
   * Renders frames [from, to) of the block into the track's positions.
   * @param seconds since playing began, for what wanders
   * @param listened whether anybody hears it; what is not heard only goes on
   */
  render(renderer: VoiceRenderer, from: number, to: number, seconds: number, listened: boolean): void {
    const { track, list, rate } = this;
    track.sounding = list.length;
    if (list.length === 0) return;
    if (!track.instrument) {
      this.cut();
      return;
    }
    const heard = listened && track.isAudible;
    if (heard) track.fed = true;
    const drift = track.driftCents;
    const bend = track.bendCents;
    const { power } = track;
    let kept = 0;
    for (let i = 0; i < list.length; i++) {
      const voice = list[i];
      const cents = drift === 0 ? bend : bend + drift * wander(seconds, voice.key);
      voice.render(renderer, track.buses, heard, from, to - from, track.controllers, cents, rate);
      voice.energy *= power;
      if (voice.idle) this.pool.giveBack(voice);
      else list[kept++] = voice;
    }
    list.length = kept;
  }

  start(event: StartEvent): void {
    const { track } = this;
    const articulation = track.instrument?.articulations[event.articulation];
    if (!articulation) return;
    if (event.morph) track.follow(event.morph.controller);
    if (track.sounding === 0) track.controllers.set(track.targets);
    const zones = articulation[event.role][event.key];
    if (zones === undefined || zones.length === 0) return;
    this.startChains(zones, event, 1);
  }

  /** Starts a voice for every chain among the zones that fit. */
  private startChains(zones: readonly PreparedZone[], event: StartEvent, level: number): void {
    const { track, rate } = this;
    const joined = this.isJoined(event);
    const old = event.joins === undefined ? undefined : this.soundingOf(event.joins);
    for (let i = 0; i < zones.length; i++) {
      if (isLaterOfChain(zones, i)) continue;
      this.makePlace();
      const voice = this.pool.take();
      if (!voice.start(zones, zones[i].chain, event, track.targets, joined, level, rate)) {
        this.pool.giveBack(voice);
        continue;
      }
      if (event.role === 'attack' && event.joins === undefined)
        voice.shapeAttack(track.attackSeconds * rate, track.riseShare);
      if (event.noise) voice.scale(track.noiseGain);
      voice.sound = event.sound;
      voice.articulation = event.articulation;
      voice.order = this.started++;
      this.list.push(voice);
      if (old && old !== voice) this.join(voice, old, event);
      this.makeRoomFor(voice);
    }
  }

  /** When all the track may have sound already, the one heard least is let go. */
  private makePlace(): void {
    const least = this.heldCount >= this.most ? this.leastHeard : undefined;
    if (!least) return;
    this.giveUp(least);
    this.stolen++;
    this.lastStolenKey = least.key;
  }

  /**
   * What is heard of the track now, by the two positions heard most: reading all of them would take as long as a block lasts.
   * The object is used again.
   */
  private hear(): Hearing {
    const { track, hearing } = this;
    let most = 0;
    let second = 0;
    for (let p = 0; p < MAX_POSITIONS; p++) {
      const loudness = track.buses[p]?.loudness ?? 0;
      hearing.loudness[p] = loudness;
      if (loudness > most) [second, most] = [most, loudness];
      else if (loudness > second) second = loudness;
    }
    let left = 2;
    for (let p = 0; p < MAX_POSITIONS; p++)
      if (hearing.loudness[p] < second || left-- <= 0) hearing.loudness[p] = 0;
    hearing.positions = track.buses.length;
    hearing.controllers = track.controllers;
    hearing.bendCents = track.bendCents;
    return hearing;
  }

  private join(voice: Voice, old: Voice, event: StartEvent): void {
    const hearing = this.hear();
    const over = event.fadeInSeconds * this.rate;
    const align = (event.alignSeconds ?? 0) * this.rate;
    const { likeness, shiftFrames } = compareVoices(old, voice, over, align, hearing);
    voice.takeOver(old, likeness, shiftFrames, hearing);
  }

  /** The newest voice of a sound, whether it is held or fades: after the seam of a loop an older one may still ring. */
  private soundingOf(sound: number): Voice | undefined {
    for (let i = this.list.length - 1; i >= 0; i--) if (this.list[i].sound === sound) return this.list[i];
    return undefined;
  }

  /** Whether another note is held. */
  private isJoined(event: StartEvent): boolean {
    for (const voice of this.list)
      if (!voice.ending && voice.role === 'attack' && voice.sound !== event.sound && !voice.leading.oneShot)
        return true;
    return false;
  }

  /** Groups that cut each other, and the number of sounds an instrument allows itself. */
  private makeRoomFor(voice: Voice): void {
    const { group, polyphony, keyPolyphony } = voice.leading;
    if (group !== undefined)
      for (const other of this.list)
        if (!other.ending && other.sound !== voice.sound && other.leading.offBy === group)
          other.stop((other.leading.offSeconds ?? CUT_SECONDS) * this.rate, this.rate);
    if (polyphony !== undefined) this.keepNewest(voice, polyphony, false);
    if (keyPolyphony !== undefined) this.keepNewest(voice, keyPolyphony, true);
  }

  /** Ends the oldest sounds of the same group (and key) beyond `most`. */
  private keepNewest(voice: Voice, most: number, sameKey: boolean): void {
    for (;;) {
      let oldest: Voice | undefined;
      let count = 0;
      for (const other of this.list) {
        const same =
          !other.ending &&
          other.leading.group === voice.leading.group &&
          (!sameKey || other.key === voice.key);
        if (!same) continue;
        count++;
        if (other.sound !== voice.sound && !oldest) oldest = other;
      }
      if (count <= most || !oldest) return;
      oldest.stop(CUT_SECONDS * this.rate, this.rate);
    }
  }

  stop(event: StopEvent): void {
    // What a recorded end adds comes behind what is looked at.
    const count = this.list.length;
    for (let i = 0; i < count; i++) {
      const voice = this.list[i];
      if (voice.ending || voice.sound !== event.sound) continue;
      const fade = event.fadeSeconds < 0 ? -1 : event.fadeSeconds * this.rate;
      const taken = event.release && voice.wantsRelease && this.startRelease(voice);
      const over = RELEASE_OVER_SECONDS * this.rate;
      voice.stop(taken && (fade < 0 || fade > over) ? over : fade, this.rate, this.track.releaseScale);
    }
  }

  /** Plays the recorded end of a note. @returns whether it takes the tone over, so that the note is to make way */
  private startRelease(from: Voice): boolean {
    const { track } = this;
    const zones = track.instrument?.articulations[from.articulation]?.release[from.key];
    if (zones === undefined || zones.length === 0 || track.endsGain === 0) return false;
    const event = this.releaseEvent;
    event.levelsDb = track.endsFade;
    event.articulation = from.articulation;
    event.key = event.fromKey = from.key;
    event.velocity = from.velocity;
    event.morph = from.morph ?? undefined;
    const decay = zones[0].zone.decayDbPerSecond ?? 0;
    const level =
      from.level * from.sourceGain * (decay === 0 ? 1 : exp10((-decay * from.ageFrames) / this.rate / 20));
    const first = this.list.length;
    this.startChains(zones, event, level);
    let taken = false;
    for (let i = first; i < this.list.length; i++) {
      const takes = this.takesTone(this.list[i], from);
      // What is unlike the tone is a noise: of a damper, a key, a breath.
      this.list[i].scale(track.endsGain * (takes ? 1 : track.noiseGain));
      if (takes) taken = true;
    }
    return taken;
  }

  /**
   * Lets a recorded end that goes on with the note's own tone take over from it: in step, under a crossfade, at the level
   * the note has. What is unlike it, such as the noise of a damper, only joins it.
   */
  private takesTone(voice: Voice, from: Voice): boolean {
    const hearing = this.hear();
    const over = RELEASE_OVER_SECONDS * this.rate;
    const found = compareVoices(from, voice, over, RELEASE_ALIGN_SECONDS * this.rate, hearing);
    if (found.likeness < TONE_LIKENESS || found.powerRatio === 0) return false;
    voice.takeOver(from, found.likeness, found.shiftFrames, hearing);
    voice.fadeIn(over, Math.min(MOST_RELEASE_GAIN, Math.sqrt(found.powerRatio)));
    return true;
  }
}

/** True when a zone before this one belongs to the same chain. */
function isLaterOfChain(zones: readonly PreparedZone[], at: number): boolean {
  for (let i = 0; i < at; i++) if (zones[i].chain === zones[at].chain) return true;
  return false;
}
