import { createHash } from 'node:crypto';
import type { Articulation, Instrument } from '#core/catalogue/index.ts';
import { REPORT_REVISION, type ArticulationReport } from '#core/report/index.ts';
import type { Store } from './database.ts';

/** Measured reports, kept against a digest of the zones and samples they speak of. */
export class Reports {
  constructor(private readonly store: Store) {}

  /** Reports of an instrument that are still true, in its order, and the articulations that are to be measured. Stale ones are dropped. */
  async of(instrument: Instrument): Promise<{ reports: ArticulationReport[]; missing: string[] }> {
    const rows = (await this.store.models.reports.findAll({
      where: { instrumentId: instrument.id },
      raw: true,
    })) as unknown as { articulation: string; digest: string; report: string }[];
    const reports: ArticulationReport[] = [];
    const missing: string[] = [];
    for (const articulation of instrument.articulations) {
      const row = rows.find((one) => one.articulation === articulation.id);
      if (row?.digest === digestOf(articulation)) reports.push(JSON.parse(row.report) as ArticulationReport);
      else missing.push(articulation.id);
    }
    const stale = rows
      .map((row) => row.articulation)
      .filter((id) => missing.includes(id) || !instrument.articulations.some((one) => one.id === id));
    if (stale.length > 0)
      await this.store.models.reports.destroy({
        where: { instrumentId: instrument.id, articulation: stale },
      });
    return { reports, missing };
  }

  /** Keeps a report. An instrument that was taken away meanwhile keeps none. */
  async keep(instrument: Instrument, report: ArticulationReport): Promise<void> {
    const articulation = instrument.articulations.find((one) => one.id === report.articulation);
    const row = await this.store.models.instruments.findByPk(instrument.id, { raw: true });
    if (!articulation || !row) return;
    // What could not be read may be there again tomorrow.
    if (report.troubled.some((one) => one.trouble === 'missing')) return;
    const where = { instrumentId: instrument.id, articulation: report.articulation };
    await this.store.sequelize.transaction(async (transaction) => {
      await this.store.models.reports.destroy({ where, transaction });
      await this.store.models.reports.create(
        { ...where, digest: digestOf(articulation), report: JSON.stringify(report) },
        { transaction },
      );
    });
  }
}

/** Digest of everything a report depends on: zones name their samples by the digest of their sound. */
function digestOf(articulation: Articulation): string {
  return createHash('sha256')
    .update(`${REPORT_REVISION} ${articulation.name} ${JSON.stringify(articulation.zones)}`)
    .digest('hex');
}
