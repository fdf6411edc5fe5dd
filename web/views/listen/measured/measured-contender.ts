import type { ArticulationReport } from '#core/report/index.ts';
import type { Contender } from '../contenders.ts';

/** What was measured of one contender. */
export interface MeasuredContender {
  contender: Contender;
  slot: number;
  /** Everything measured of its instrument. */
  all: readonly ArticulationReport[];
  /** The technique that is looked at. */
  report: ArticulationReport | undefined;
}
