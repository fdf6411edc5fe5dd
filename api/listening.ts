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
