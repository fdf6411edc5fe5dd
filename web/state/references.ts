import { useQuery } from '@tanstack/react-query';
import { create } from 'zustand';
import type { JobInfo, ReferenceInfo } from '#api/index.ts';
import { fetchBytes, request } from './api-client.ts';
import { jobDone, lookAtJobs } from './libraries.ts';
import { queries } from './queries.ts';

const REFERENCES = ['references'];

/** Which job takes a recording in, while one does. */
const useTaking = create<{ taking: string | undefined }>(() => ({ taking: undefined }));

/** Hook: recordings that sounds are held against. */
export function useReferences(): {
  list: readonly ReferenceInfo[] | undefined;
  trouble: string | undefined;
  taking: string | undefined;
} {
  const taking = useTaking((state) => state.taking);
  const { data, error } = useQuery({
    queryKey: REFERENCES,
    queryFn: () => request<ReferenceInfo[]>('GET', '/references'),
  });
  return { list: data, trouble: error?.message, taking };
}

/** Asks for the list anew. */
const loadReferences = () => queries.invalidateQueries({ queryKey: REFERENCES });

/** Takes a recording in. @returns its id @throws Error with the server's sentence when it is refused */
export async function takeReference(file: File): Promise<string> {
  const form = new FormData();
  form.append('files', file, file.name);
  const job = await request<JobInfo>('POST', '/references', form);
  useTaking.setState({ taking: job.id });
  try {
    lookAtJobs();
    const id = await jobDone(job.id);
    await loadReferences();
    return id;
  } finally {
    useTaking.setState({ taking: undefined });
  }
}

export async function removeReference(id: string): Promise<void> {
  await request('DELETE', `/references/${id}`);
  await loadReferences();
}

/** Frames [from, to) of a recording at 48 kHz. @throws RequestFailure */
export async function passageOf(
  id: string,
  from: number,
  to: number,
): Promise<{ left: Float32Array; right: Float32Array }> {
  const bytes = await fetchBytes(`/references/${id}/passage?from=${from}&to=${to}`);
  const data = new Int16Array(bytes);
  const left = new Float32Array(new SharedArrayBuffer((data.length / 2) * 4));
  const right = new Float32Array(new SharedArrayBuffer((data.length / 2) * 4));
  for (let i = 0; i < left.length; i++) {
    left[i] = data[2 * i] / 32768;
    right[i] = data[2 * i + 1] / 32768;
  }
  return { left, right };
}
