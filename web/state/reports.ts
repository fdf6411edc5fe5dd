import { create } from 'zustand';
import type { InstrumentReport } from '#api/index.ts';
import { request } from './api-client.ts';
import { cancelJob } from './libraries.ts';

/** What is known of an instrument's report. */
interface KnownReport extends InstrumentReport {
  trouble?: string;
}

/** Measured reports by instrument id, as far as they were looked at. */
export const useReports = create<{ reports: Readonly<Record<string, KnownReport>> }>(() => ({ reports: {} }));

const POLL_MS = 700;
const timers = new Map<string, ReturnType<typeof setTimeout>>();

async function ask(method: 'GET' | 'POST', id: string): Promise<void> {
  clearTimeout(timers.get(id));
  try {
    const report = await request<InstrumentReport>(method, `/instruments/${id}/report`);
    useReports.setState(({ reports }) => ({ reports: { ...reports, [id]: report } }));
    if (report.job)
      timers.set(
        id,
        setTimeout(() => void ask('GET', id), POLL_MS),
      );
  } catch (error) {
    const trouble = (error as Error).message;
    useReports.setState(({ reports }) => {
      const known = reports[id] ?? { reports: [], missing: [], job: null };
      return { reports: { ...reports, [id]: { ...known, job: null, trouble } } };
    });
  }
}

/** Fetches what is measured of an instrument, and follows measuring that goes on. */
export function lookAtReport(id: string): void {
  void ask('GET', id);
}

/** Has everything measured that is not yet. */
export function measure(id: string): void {
  void ask('POST', id);
}

/** Gives measuring up; what is measured so far is kept. */
export async function stopMeasuring(id: string): Promise<void> {
  const job = useReports.getState().reports[id]?.job;
  if (job) await cancelJob(job.id);
  await ask('GET', id);
}
