import type { Instrument } from '#core/catalogue/index.ts';
import type { HallResponse } from '#core/dsp/index.ts';
import type { EngineEvent, GivenUp, Rendering, SampleAudio, Stretch } from '#core/engine/index.ts';
import type { FeedChange, LiveEvent } from '#core/performance/index.ts';
import type { HallMix, TrackMix } from '#core/mixing/index.ts';

/** A track as the engine is told of it. */
export interface EngineTrackSetup {
  instrumentId: string | null;
  mix: TrackMix;
}

/** What the page tells the worklet. */
export type ToEngine =
  /** An instrument without its audio; what is loaded of it follows. */
  | { kind: 'instrument'; instrument: Instrument }
  /** Recordings that have arrived, or (null) were let go. */
  | { kind: 'audio'; instrumentId: string; audio: Map<string, SampleAudio | null> }
  /** Samples that are no longer there, whatever instrument plays them; answered by `passed`. */
  | { kind: 'gone'; ids: readonly string[]; number: number }
  /** More room in the page's memory. */
  | { kind: 'room'; room: Stretch }
  | { kind: 'tracks'; tracks: EngineTrackSetup[] }
  | { kind: 'hall'; response: HallResponse }
  | { kind: 'hallMix'; mix: HallMix }
  /** Begins anew with the first events. */
  | { kind: 'play'; events: EngineEvent[] }
  /** What comes after what was told. */
  | { kind: 'feed'; events: EngineEvent[] }
  /** What takes the place of what some tracks were told. */
  | ({ kind: 'replan' } & FeedChange)
  | { kind: 'stop' }
  /** Voices that may sound at once. */
  | { kind: 'limit'; voices: number }
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

/** What the worklet tells the page, about thirty times a second while it runs. */
export type FromEngine =
  | {
      kind: 'state';
      playing: boolean;
      frame: number;
      tracks: TrackMeter[];
      momentary: number;
      voices: number;
      stolen: number;
      /** The last voice that was given up since the report before. */
      givenUp: GivenUp | null;
      /** What sounds of the last track, the one that hands play when a sound is taken up. */
      sounding: SoundingVoice[];
      /** Whether a rendering plays, and the frame it has come to. */
      hearing: boolean;
      place: number;
    }
  /** From now on nothing of a `gone` is read. */
  | { kind: 'passed'; number: number }
  | { kind: 'captured'; left: Float32Array; right: Float32Array }
  | { kind: 'timed'; milliseconds: Float32Array };
