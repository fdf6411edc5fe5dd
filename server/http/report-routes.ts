import type { InstrumentReport } from '#api/index.ts';
import type { Instrument } from '#core/catalogue/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { ArticulationReport } from '#core/report/index.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { MeasureOrder } from '../jobs/measure.worker.ts';
import type { Catalogue } from '../store/catalogue.ts';
import type { Reports } from '../store/reports.ts';
import type { Request } from 'express';
import type { Route } from './access.ts';

/** Measured reports of instruments: what is known, and measuring what is not. */
export function reportRoutes(
  catalogue: Catalogue,
  reports: Reports,
  jobs: JobQueue,
  dataFolder: string,
): Route[] {
  /** Measuring under way, by instrument. */
  const running = new Map<string, string>();
  /** What could not be kept because recordings were missing; told until the server ends or all is measured anew. */
  const passing = new Map<string, ArticulationReport[]>();

  async function instrumentOf(request: Request): Promise<Instrument> {
    const instrument = await catalogue.instrument(String(request.params.id));
    if (!instrument) throw new FarloError('not-found', 'There is no such instrument here.');
    return instrument;
  }

  async function reportOf(instrument: Instrument): Promise<InstrumentReport> {
    const { reports: kept, missing } = await reports.of(instrument);
    const job = jobs.get(running.get(instrument.id) ?? '')?.info;
    const told = (passing.get(instrument.id) ?? []).filter((one) => missing.includes(one.articulation));
    const order = new Map(instrument.articulations.map(({ id }, i) => [id, i]));
    return {
      reports: [...kept, ...told].sort(
        (a, b) => (order.get(a.articulation) ?? 0) - (order.get(b.articulation) ?? 0),
      ),
      missing: missing.filter((id) => !told.some((one) => one.articulation === id)),
      job: job && (job.state === 'waiting' || job.state === 'running') ? job : null,
    };
  }

  return [
    {
      method: 'get',
      path: '/instruments/:id/report',
      access: 'viewer',
      studioOf: (request) => catalogue.studioOfInstrument(String(request.params.id)),
      handle: async (request, response) => {
        response.json(await reportOf(await instrumentOf(request)));
      },
    },
    {
      method: 'post',
      path: '/instruments/:id/report',
      access: 'viewer',
      studioOf: (request) => catalogue.studioOfInstrument(String(request.params.id)),
      handle: async (request, response, member) => {
        const instrument = await instrumentOf(request);
        passing.delete(instrument.id);
        const { missing } = await reports.of(instrument);
        const job = jobs.get(running.get(instrument.id) ?? '')?.info;
        if (missing.length > 0 && job?.state !== 'waiting' && job?.state !== 'running') {
          const order: MeasureOrder = { instrument, articulations: missing, dataFolder };
          const started = jobs.add<ArticulationReport | undefined>({
            kind: 'measure',
            title: `Measuring ${instrument.name}`,
            studioId: member.studioId,
            worker: new URL('../jobs/measure.worker.ts', import.meta.url),
            data: order,
            part: async (report) => {
              if (!report) return;
              await reports.keep(instrument, report);
              if (report.troubled.some((one) => one.trouble === 'missing'))
                passing.set(instrument.id, [...(passing.get(instrument.id) ?? []), report]);
            },
            finish: () => Promise.resolve(instrument.id),
          });
          running.set(instrument.id, started.id);
        }
        response.status(202).json(await reportOf(instrument));
      },
    },
  ];
}
