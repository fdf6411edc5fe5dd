import { useQuery } from '@tanstack/react-query';
import { create } from 'zustand';
import type { JobInfo, ReferenceInfo } from '#api/index.ts';
import { fetchBytes, request } from './api-client.ts';
import { jobDone, lookAtJobs } from './libraries.ts';
import { ENGINE_RATE } from '#core/units/index.ts';
import { queries } from './queries.ts';

const REFERENCES = ['references'];

/** Which job takes a recording in, while one does. */
const useTaking = create<{ taking: string | undefined }>(() => ({ taking: undefined }));

/** Seconds of a passage within a recording. */
export interface Passage {
  from: number;
  to: number;
}

const FIRST_SECONDS = 10;
const useChosenPassages = create<Readonly<Record<string, Passage>>>(() => ({}));

/** The passage of a recording that is looked at: what was chosen in this visit, or its beginning. */
export function chosenPassage({ id, frames }: ReferenceInfo): Passage {
  return useChosenPassages.getState()[id] ?? { from: 0, to: Math.min(FIRST_SECONDS, frames / ENGINE_RATE) };
}

/** Hook: the passage that is looked at. */
export function useChosenPassage(reference: ReferenceInfo): Passage {
  useChosenPassages((state) => state[reference.id]);
  return chosenPassage(reference);
}

export function choosePassage(id: string, passage: Passage): void {
  useChosenPassages.setState({ [id]: passage });
}

/** Sound of the passage of a recording that is looked at. @throws RequestFailure */
export function chosenSound(reference: ReferenceInfo): ReturnType<typeof passageOf> {
  const { from, to } = chosenPassage(reference);
  const last = Math.min(Math.round(to * ENGINE_RATE), reference.frames);
  return passageOf(reference.id, Math.round(from * ENGINE_RATE), last);
}

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
