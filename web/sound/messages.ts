import type { Instrument, Zone } from '#core/catalogue/index.ts';
import type { HallResponse } from '#core/dsp/index.ts';
import type { ClickAt, EngineEvent, GivenUp, PlacedAudio, Rendering, Stretch } from '#core/engine/index.ts';
import type { FeedChange, LiveEvent } from '#core/performance/index.ts';
import type { HallMix, TrackMix } from '#core/mixing/index.ts';

/** A track as the engine is told of it. */
export interface EngineTrackSetup {
  instrumentId: string | null;
  mix: TrackMix;
  /** Whether hands play it. */
  byHand: boolean;
  /** Nothing is planned for it. */
  handsOnly?: true;
}

/**
 * What every thread that plays is told: the audio thread of what hands play, a worker of its tracks. Where a number comes along,
 * `passed` answers it as soon as the message has taken effect.
 */
export type ToPlayers =
  /** An instrument without its zones, which follow part by part. */
  | { kind: 'instrument'; instrument: Pick<Instrument, 'id' | 'positions' | 'articulations' | 'rests'> }
  | {
      kind: 'zones';
      instrumentId: string;
      /** Place of their articulation. */
      index: number;
      zones: Zone[];
      samples: Instrument['samples'];
      number?: number;
    }
  /** All zones of an instrument have been told. */
  | { kind: 'ready'; instrumentId: string }
  /** Recordings that have arrived, or (null) were let go. */
  | { kind: 'audio'; instrumentId: string; audio: Map<string, PlacedAudio | null>; number?: number }
  /** Samples that are no longer there, whatever instrument plays them. */
  | { kind: 'gone'; ids: readonly string[]; number: number }
  /** An instrument that is played no longer. */
  | { kind: 'drop'; instrumentId: string }
  /** More room in the page's memory. */
  | { kind: 'room'; room: Stretch }
  | { kind: 'tracks'; tracks: EngineTrackSetup[] }
  /** One track is mixed anew. */
  | { kind: 'mix'; track: number; mix: TrackMix }
  /** Voices that may sound at once. */
  | { kind: 'limit'; voices: number };

/** What the page tells the worklet. */
export type ToEngine =
  | ToPlayers
  /** More rings, by their address, and which worker renders which track (−1: none). */
  | { kind: 'ahead'; rings: number[]; owners: number[] }
  | { kind: 'hall'; response: HallResponse }
  | { kind: 'hallMix'; mix: HallMix }
  /** Begins a performance, which the workers render under the same number. */
  | { kind: 'play'; epoch: number }
  | { kind: 'stop' }
  /** Clicks of the performance that come after those told before, and how loud they are. */
  | { kind: 'clicks'; clicks: ClickAt[]; gain: number }
  /** Drops the clicks that are still to come. */
  | { kind: 'noClicks' }
  | { kind: 'live'; events: LiveEvent[] }
  | { kind: 'hush'; track: number }
  /** Renderings that can be listened to, by name; earlier ones of the same name are replaced. */
  | { kind: 'renderings'; renderings: Map<string, Rendering> }
  /** Forgets all renderings but these. */
  | { kind: 'keepRenderings'; names: string[] }
  /** Plays a rendering from a frame on. */
  | { kind: 'hear'; name: string; place: number; repeat: boolean }
  /** Goes over to another rendering at the same place. */
  | { kind: 'change'; name: string }
  | { kind: 'quiet' }
  | { kind: 'capture'; frames: number }
  /** A running clock in shared memory (milliseconds), by which blocks are timed from then on. */
  | { kind: 'clock'; clock: Float64Array; blocks: number };

/** What the page tells a worker that renders ahead. */
export type ToAhead =
  | ToPlayers
  | { kind: 'begin'; words: Int32Array; index: number; memory: object; room: Stretch }
  | { kind: 'rings'; rings: number[] }
  | { kind: 'own'; tracks: number[] }
  /** Begins a performance at a block with the first events from it on. */
  | { kind: 'play'; epoch: number; events: EngineEvent[]; block: number }
  /** What comes after what was told. */
  | { kind: 'feed'; events: EngineEvent[] }
  /** What takes the place of what some tracks were told. */
  | ({ kind: 'replan' } & FeedChange)
  /** Puts events into effect as soon as may be: what hands ride. */
  | { kind: 'ride'; events: EngineEvent[] }
  | { kind: 'rest' };

/** Meters of one track, linear peaks since the last report. */
export interface TrackMeter {
  peak: number;
  positions: number[];
}

/** One voice of the taken sound, for display. */
export interface SoundingVoice {
  key: number;
  take: number;
  takes: number;
  /** A sample of the zone heard most, by which the page finds its layer. */
  sample: string;
}

/** From now on the message of this number has taken effect. */
export interface Passed {
  kind: 'passed';
  number: number;
}

/** What the worklet tells the page, about thirty times a second while it runs. */
export type FromEngine =
  | {
      kind: 'state';
      /** Whether a performance is played, or waits for its first blocks. */
      playing: boolean;
      frame: number;
      /** When that frame is next, by the clock of the audio context, seconds. */
      seconds: number;
      tracks: TrackMeter[];
      momentary: number;
      voices: number;
      stolen: number;
      /** The last voice that was given up since the report before. */
      givenUp: GivenUp | null;
      /** Blocks of workers that came too late since the report before. */
      late: number;
      /** What sounds of the last track, the one that hands play when a sound is taken up. */
      sounding: SoundingVoice[];
      /** Whether a rendering plays, and the frame it has come to. */
      hearing: boolean;
      place: number;
    }
  | Passed
  | { kind: 'captured'; left: Float32Array; right: Float32Array }
  | { kind: 'timed'; milliseconds: Float32Array };

/** What a worker that renders ahead tells the page. */
export type FromAhead =
  | Passed
  | { kind: 'givenUp'; givenUp: GivenUp }
  /** What tracks have cost since this was told before, in milliseconds. */
  | { kind: 'costs'; costs: number[] };
