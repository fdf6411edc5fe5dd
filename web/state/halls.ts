import { useQuery } from '@tanstack/react-query';
import { create } from 'zustand';
import type { JobInfo, OwnHallInfo } from '#api/index.ts';
import { request } from './api-client.ts';
import { useDocuments } from './documents.ts';
import { jobDone, lookAtJobs } from './libraries.ts';
import { queries } from './queries.ts';

const HALLS = ['halls'];
const SAVED_MS = 5000;

/** Whether an impulse response is being taken in. */
const useTaking = create<{ taking: boolean }>(() => ({ taking: false }));

/** Hook: halls of the studio's own. */
export function useOwnHalls(): {
  list: readonly OwnHallInfo[];
  trouble: string | undefined;
  taking: boolean;
} {
  const taking = useTaking((state) => state.taking);
  const { data, error } = useQuery({
    queryKey: HALLS,
    queryFn: () => request<OwnHallInfo[]>('GET', '/halls'),
  });
  return { list: data ?? [], trouble: error?.message, taking };
}

/** Takes an impulse response in. @returns what it became @throws Error with the server's sentence when it is refused */
export async function addHall(file: File): Promise<OwnHallInfo | undefined> {
  const form = new FormData();
  form.append('files', file, file.name);
  useTaking.setState({ taking: true });
  try {
    const job = await request<JobInfo>('POST', '/halls', form);
    lookAtJobs();
    const id = await jobDone(job.id);
    await queries.invalidateQueries({ queryKey: HALLS });
    return queries.getQueryData<OwnHallInfo[]>(HALLS)?.find((one) => one.id === id);
  } finally {
    useTaking.setState({ taking: false });
  }
}

/** Settles once the open template is saved, or after a while. */
function templateSaved(): Promise<void> {
  return new Promise((resolve) => {
    const look = () => {
      const save = useDocuments.getState().saves.template;
      if (save && save.kind !== 'saved') return;
      clearTimeout(timer);
      end();
      resolve();
    };
    const end = useDocuments.subscribe(look);
    const timer = setTimeout(() => {
      end();
      resolve();
    }, SAVED_MS);
    look();
  });
}

/** Takes a hall away, once the template that has just left it is saved. @throws Error with the server's sentence while a template sounds in it */
export async function removeHall(id: string): Promise<void> {
  await templateSaved();
  await request('DELETE', `/halls/${id}`);
  await queries.invalidateQueries({ queryKey: HALLS });
}
