import { QueryObserver } from '@tanstack/react-query';
import { create } from 'zustand';
import type { InstrumentSummary, JobInfo, LibrarySummary } from '#api/index.ts';
import { forgetInstrument } from '../sound/instruments.ts';
import { request } from './api-client.ts';
import { queries } from './queries.ts';

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
const LIBRARIES = ['libraries'];
const JOBS = ['jobs'];

const isBusy = (job: JobInfo) => job.state === 'waiting' || job.state === 'running';
let finishedJobs = new Set<string>();
let partsSeen = 0;
let signatures = new Map<string, string>();

/** Takes what the studio owns now; instruments whose recordings changed are loaded again. */
function takeLibraries(libraries: readonly LibrarySummary[]): void {
  const next = new Map(
    libraries.flatMap((library) =>
      library.instruments.map((i): [string, string] => [i.id, `${i.bytes} ${i.articulations.length}`]),
    ),
  );
  for (const [id, signature] of next)
    if (signatures.has(id) && signatures.get(id) !== signature) forgetInstrument(id);
  signatures = next;
  useLibraries.setState({ libraries, trouble: undefined });
}

/** Takes how far long work has come; what it has made is asked for. */
function takeJobs(jobs: readonly JobInfo[]): void {
  const done = new Set(jobs.filter((job) => !isBusy(job)).map((job) => job.id));
  const parts = jobs.reduce((sum, job) => sum + job.parts, 0);
  const fresh = parts > partsSeen || [...done].some((id) => !finishedJobs.has(id));
  partsSeen = parts;
  finishedJobs = done;
  useLibraries.setState({ jobs });
  if (fresh) void loadLibraries();
}

/** Asks for the libraries anew. */
export async function loadLibraries(): Promise<void> {
  await queries.refetchQueries({ queryKey: LIBRARIES });
}

/** Looks at the jobs at once, for example after starting one. */
export function lookAtJobs(): void {
  void queries.refetchQueries({ queryKey: JOBS });
}

/** Follows the server's jobs and what they make while the page is open. @returns a function that ends it */
export function watchLibraries(): () => void {
  const libraries = new QueryObserver(queries, {
    queryKey: LIBRARIES,
    queryFn: () => request<LibrarySummary[]>('GET', '/libraries'),
  });
  const jobs = new QueryObserver(queries, {
    queryKey: JOBS,
    queryFn: () => request<JobInfo[]>('GET', '/jobs'),
    refetchInterval: ({ state }) => (state.data?.some(isBusy) ? POLL_BUSY_MS : POLL_IDLE_MS),
  });
  const taken: { libraries?: object; jobs?: object } = {};
  const follow = () => {
    const [owned, work] = [libraries.getCurrentResult(), jobs.getCurrentResult()];
    const error = owned.error ?? work.error;
    if (error) useLibraries.setState({ trouble: error.message });
    if (owned.data && owned.data !== taken.libraries)
      takeLibraries((taken.libraries = owned.data) as LibrarySummary[]);
    else if (!error && useLibraries.getState().trouble) useLibraries.setState({ trouble: undefined });
    if (work.data && work.data !== taken.jobs) takeJobs((taken.jobs = work.data) as JobInfo[]);
  };
  const endings = [libraries.subscribe(follow), jobs.subscribe(follow)];
  follow();
  return () => {
    for (const end of endings) end();
  };
}

/** Gives up a job; one that has ended goes off the list. */
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
