import type { ArticulationReport } from '#core/report/index.ts';
import type { JobInfo } from './catalogue.ts';

/** What is measured of an instrument so far. */
export interface InstrumentReport {
  reports: ArticulationReport[];
  /** Articulations not measured yet. */
  missing: string[];
  /** Measuring under way. */
  job: JobInfo | null;
}

/** A recording that sounds are held against, kept at 48 kHz in stereo. */
export interface ReferenceInfo {
  id: string;
  name: string;
  /** Frames at 48 kHz, and the rate it had. */
  frames: number;
  rate: number;
  /** Peaks of equal stretches, 0 … 1, for drawing. */
  outline: number[];
}

/** A hall of the studio's own: an impulse response that was taken in. */
export interface OwnHallInfo {
  id: string;
  name: string;
  /** 1, 2, or 4: left source at left and right, right source at left and right. */
  channels: number;
  /** Of each channel, at 48 kHz. */
  frames: number;
  decaySeconds: number;
  /** What was changed of the file, in sentences. */
  remarks: string[];
}
