import type { Instrument } from '#core/catalogue/index.ts';
import { measureArticulation, type ArticulationReport, type HeardSample } from '#core/report/index.ts';
import { readSample } from '../samples/read-sample.ts';
import { runWorker } from './worker-port.ts';

/** What the measuring worker is given. */
export interface MeasureOrder {
  instrument: Instrument;
  /** Articulations to be measured, by id. */
  articulations: readonly string[];
  dataFolder: string;
}

await runWorker<MeasureOrder, ArticulationReport | undefined>(
  async ({ instrument, articulations, dataFolder }, progress, part) => {
    const wanted = instrument.articulations.filter((one) => articulations.includes(one.id));
    const whole = wanted.reduce((sum, one) => sum + one.zones.length, 0);
    let done = 0;
    for (const articulation of wanted) {
      // One articulation at a time in memory; what cannot be read is told by its report.
      const heard = new Map<string, HeardSample | undefined>();
      const source = (id: string) => {
        if (!heard.has(id)) heard.set(id, tryRead(id));
        return heard.get(id);
      };
      part(
        measureArticulation(instrument, articulation, source, (share) =>
          progress(
            (done + share * articulation.zones.length) / Math.max(1, whole),
            `Measuring ${articulation.name}`,
          ),
        ),
      );
      done += articulation.zones.length;
      await new Promise((resolve) => setImmediate(resolve));
    }
    function tryRead(id: string): HeardSample | undefined {
      const sample = instrument.samples[id] as Instrument['samples'][string] | undefined;
      try {
        return sample && readSample(dataFolder, sample);
      } catch {
        return undefined;
      }
    }
    return undefined;
  },
);
