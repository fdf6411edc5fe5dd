import { create } from 'zustand';
import type { JobInfo, ReferenceInfo } from '#api/index.ts';
import { fetchBytes, request } from './api-client.ts';
import { jobDone, lookAtJobs } from './libraries.ts';

/** Recordings that sounds are held against. */
export const useReferences = create<{
  list: readonly ReferenceInfo[] | undefined;
  trouble: string | undefined;
  /** Job that takes one in. */
  taking: string | undefined;
}>(() => ({ list: undefined, trouble: undefined, taking: undefined }));

/** Asks for the list. */
export async function loadReferences(): Promise<void> {
  try {
    useReferences.setState({
      list: await request<ReferenceInfo[]>('GET', '/references'),
      trouble: undefined,
    });
  } catch (error) {
    useReferences.setState({ trouble: (error as Error).message });
  }
}

/** Takes a recording in. @returns its id @throws Error with the server's sentence when it is refused */
export async function takeReference(file: File): Promise<string> {
  const form = new FormData();
  form.append('files', file, file.name);
  const job = await request<JobInfo>('POST', '/references', form);
  useReferences.setState({ taking: job.id });
  try {
    lookAtJobs();
    const id = await jobDone(job.id);
    await loadReferences();
    return id;
  } finally {
    useReferences.setState({ taking: undefined });
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
