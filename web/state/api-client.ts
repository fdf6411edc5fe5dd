import { packReads, type PackRead, type Problem } from '#api/index.ts';

/** A failed request, with the sentence the server gave. `status` 0 means that it did not answer. */
export class RequestFailure extends Error {
  constructor(
    sentence: string,
    readonly status: number,
    readonly problem?: Problem,
  ) {
    super(sentence);
  }
}

let guard = '';

/** Remembers the guard that every change must carry. */
export function setGuard(value: string): void {
  guard = value;
}

/** Calls the server. @throws RequestFailure */
export async function request<T>(
  method: 'GET' | 'POST' | 'DELETE',
  path: string,
  body?: unknown,
): Promise<T> {
  const headers: Record<string, string> = { 'x-farlo-guard': guard };
  let payload: BodyInit | undefined;
  if (body instanceof FormData) payload = body;
  else if (body !== undefined) {
    headers['content-type'] = 'application/json';
    payload = JSON.stringify(body);
  }
  let response: Response;
  try {
    response = await fetch(`/api${path}`, { method, headers, body: payload });
  } catch {
    throw new RequestFailure(
      'The server does not answer. Your edits are kept here and sent when it is back.',
      0,
    );
  }
  if (response.status === 204) return undefined as T;
  const text = await response.text();
  if (response.ok) return JSON.parse(text) as T;
  let problem: Problem | undefined;
  try {
    problem = JSON.parse(text) as Problem;
  } catch {
    // A proxy or a dying server answered with something else.
  }
  throw new RequestFailure(
    problem?.title ?? `The server answered ${response.status}.`,
    problem ? response.status : 0,
    problem,
  );
}

/** Fetches sound as bytes. @throws RequestFailure */
export async function fetchBytes(path: string): Promise<ArrayBuffer> {
  let response: Response;
  try {
    response = await fetch(`/api${path}`, { headers: { 'x-farlo-guard': guard } });
  } catch {
    throw new RequestFailure('The server does not answer; the sound could not be loaded.', 0);
  }
  if (response.ok) return response.arrayBuffer();
  throw await soundFailure(response);
}

async function soundFailure(response: Response): Promise<RequestFailure> {
  const problem = (await response.json().catch(() => undefined)) as Problem | undefined;
  return new RequestFailure(
    problem?.title ?? `The sound could not be loaded (${response.status}).`,
    response.status,
    problem,
  );
}

/** Fetches pieces of packs, one after the other in one answer. @throws RequestFailure */
export async function fetchPieces(reads: readonly PackRead[]): Promise<Uint8Array> {
  let response: Response;
  try {
    response = await fetch('/api/packs/read', {
      method: 'POST',
      headers: { 'x-farlo-guard': guard, 'content-type': 'application/json' },
      body: JSON.stringify(packReads(reads)),
    });
  } catch {
    throw new RequestFailure('The server does not answer; the sound could not be loaded.', 0);
  }
  if (!response.ok) throw await soundFailure(response);
  const bytes = new Uint8Array(await response.arrayBuffer());
  if (bytes.length !== reads.reduce((sum, { start, end }) => sum + end - start, 0))
    throw new RequestFailure('Less sound arrived than announced. Load it again.', 0);
  return bytes;
}
