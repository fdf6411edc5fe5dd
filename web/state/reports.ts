import { QueryObserver } from '@tanstack/react-query';
import { create } from 'zustand';
import type { InstrumentReport } from '#api/index.ts';
import { request } from './api-client.ts';
import { queries } from './queries.ts';
import { cancelJob } from './libraries.ts';

/** What is known of an instrument's report. */
interface KnownReport extends InstrumentReport {
  trouble?: string;
}

/** Measured reports by instrument id, as far as they were looked at. */
export const useReports = create<{ reports: Readonly<Record<string, KnownReport>> }>(() => ({ reports: {} }));

const POLL_MS = 700;
/** Instruments that are followed; their observers live as long as the page. */
const followed = new Map<string, QueryObserver<InstrumentReport>>();

function take(id: string, known: KnownReport): void {
  useReports.setState(({ reports }) => ({ reports: { ...reports, [id]: known } }));
}

const asks = (id: string) => ({
  queryKey: ['report', id],
  queryFn: () => request<InstrumentReport>('GET', `/instruments/${id}/report`),
});

/** What is measured of an instrument by now. @throws RequestFailure */
export const reportOf = (id: string): Promise<InstrumentReport> =>
  queries.fetchQuery({ ...asks(id), staleTime: 0 });

/** Fetches what is measured of an instrument, and follows measuring that goes on. */
export function lookAtReport(id: string): void {
  const known = followed.get(id);
  if (known) {
    void known.refetch();
    return;
  }
  const observer = new QueryObserver<InstrumentReport>(queries, {
    ...asks(id),
    refetchInterval: ({ state }) => (state.data?.job && !state.error ? POLL_MS : false),
  });
  followed.set(id, observer);
  observer.subscribe(({ data, error }) => {
    if (error) take(id, { reports: [], missing: [], ...data, job: null, trouble: error.message });
    else if (data) take(id, data);
  });
}

/** Has everything measured that is not yet. */
export function measure(id: string): void {
  request<InstrumentReport>('POST', `/instruments/${id}/report`)
    .then((report) => queries.setQueryData(['report', id], report))
    .catch((error: Error) =>
      take(id, {
        ...(useReports.getState().reports[id] ?? { reports: [], missing: [] }),
        job: null,
        trouble: error.message,
      }),
    );
}

/** Gives measuring up; what is measured so far is kept. */
export async function stopMeasuring(id: string): Promise<void> {
  const job = useReports.getState().reports[id]?.job;
  if (job) await cancelJob(job.id);
  lookAtReport(id);
}
