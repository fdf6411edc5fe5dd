import { create } from 'zustand';
import type { InstrumentSummary, JobInfo, LibrarySummary } from '#api/index.ts';
import { forgetInstrument } from '../sound/instruments.ts';
import { request } from './api-client.ts';

interface LibrariesState {
  libraries: readonly LibrarySummary[] | undefined;
  jobs: readonly JobInfo[];
  trouble: string | undefined;
}

/** Libraries of the studio, and long work on the server that makes new ones. */
export const useLibraries = create<LibrariesState>(() => ({
  libraries: undefined,
  jobs: [],
  trouble: undefined,
}));

const POLL_BUSY_MS = 500;
const POLL_IDLE_MS = 5000;

const isBusy = (job: JobInfo) => job.state === 'waiting' || job.state === 'running';
let finishedJobs = new Set<string>();
let partsSeen = 0;
let signatures = new Map<string, string>();

/** Asks for the libraries anew; instruments whose recordings changed are loaded again. */
export async function loadLibraries(): Promise<void> {
  try {
    const libraries = await request<LibrarySummary[]>('GET', '/libraries');
    const next = new Map(
      libraries.flatMap((library) =>
        library.instruments.map((i): [string, string] => [i.id, `${i.bytes} ${i.articulations.length}`]),
      ),
    );
    for (const [id, signature] of next)
      if (signatures.has(id) && signatures.get(id) !== signature) forgetInstrument(id);
    signatures = next;
    useLibraries.setState({ libraries, trouble: undefined });
  } catch (error) {
    useLibraries.setState({ trouble: (error as Error).message });
  }
}

async function poll(): Promise<boolean> {
  try {
    const jobs = await request<JobInfo[]>('GET', '/jobs');
    const done = new Set(jobs.filter((job) => !isBusy(job)).map((job) => job.id));
    const parts = jobs.reduce((sum, job) => sum + job.parts, 0);
    const fresh = parts > partsSeen || [...done].some((id) => !finishedJobs.has(id));
    partsSeen = parts;
    finishedJobs = done;
    useLibraries.setState({ jobs });
    if (fresh || useLibraries.getState().libraries === undefined) await loadLibraries();
    return jobs.some(isBusy);
  } catch (error) {
    useLibraries.setState({ trouble: (error as Error).message });
    return false;
  }
}

let wakeUp: () => void = () => undefined;

/** Looks at the jobs at once, for example after starting one. */
export function lookAtJobs(): void {
  wakeUp();
}

/** Follows the server's jobs while the page is open. @returns a function that ends it */
export function watchLibraries(): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  let ended = false;
  const round = async () => {
    const busy = await poll();
    if (!ended) timer = setTimeout(() => void round(), busy ? POLL_BUSY_MS : POLL_IDLE_MS);
  };
  wakeUp = () => {
    clearTimeout(timer);
    void round();
  };
  void round();
  return () => {
    ended = true;
    clearTimeout(timer);
  };
}

/** Gives up a job. */
export async function cancelJob(id: string): Promise<void> {
  await request('DELETE', `/jobs/${id}`);
  lookAtJobs();
}

/** Waits for a job's end. @returns what came of it @throws Error with the server's sentence when it failed */
export function jobDone(id: string): Promise<string> {
  return new Promise((resolve, reject) => {
    const look = () => {
      const job = useLibraries.getState().jobs.find((one) => one.id === id);
      if (!job || isBusy(job)) return;
      unsubscribe();
      if (job.state === 'done') resolve(job.resultId ?? '');
      else reject(new Error(job.message));
    };
    const unsubscribe = useLibraries.subscribe(look);
    look();
  });
}

/** Hook: an instrument with its library. */
export function useOwned(
  instrumentId: string | undefined,
): { instrument: InstrumentSummary; library: LibrarySummary } | undefined {
  const libraries = useLibraries((state) => state.libraries);
  for (const library of libraries ?? [])
    for (const instrument of library.instruments)
      if (instrument.id === instrumentId) return { instrument, library };
  return undefined;
}
