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

  /** The server's name for what went wrong. */
  get code(): string | undefined {
    return this.problem?.code;
  }
}

/** Sent by those who have none yet: a header that other sites cannot send. */
const NO_GUARD = 'none';
let guard = NO_GUARD;

/** Remembers the guard that every change must carry. */
export function setGuard(value: string): void {
  guard = value || NO_GUARD;
}

interface SessionHandlers {
  /** The session is over. */
  over(): void;
  /** Asks who is signed in now. @returns whether it is still the same person */
  renew(): Promise<boolean>;
}

let session: SessionHandlers = { over: () => undefined, renew: () => Promise.resolve(false) };

/** Says what happens when the server no longer knows the session. */
export function whenSignedOut(handlers: SessionHandlers): void {
  session = handlers;
}

/** Calls the server. @param signal gives it up @throws RequestFailure */
export async function request<T>(
  method: 'GET' | 'POST' | 'DELETE',
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  try {
    return await once<T>(method, path, body, signal);
  } catch (error) {
    if (!(error instanceof RequestFailure)) throw error;
    // Another tab signed in: the same person goes on with the new guard, anybody else must not send this.
    if (error.code === 'access.guard' && (await session.renew())) return once<T>(method, path, body, signal);
    throw error;
  }
}

async function once<T>(
  method: 'GET' | 'POST' | 'DELETE',
  path: string,
  body?: unknown,
  signal?: AbortSignal,
): Promise<T> {
  const headers: Record<string, string> = { 'x-farlo-guard': guard };
  let payload: BodyInit | undefined;
  if (body instanceof FormData) payload = body;
  else if (body !== undefined) {
    headers['content-type'] = 'application/json';
    payload = JSON.stringify(body);
  }
  const response = await reach(
    path,
    { method, headers, body: payload, signal },
    'The server does not answer. Your edits are kept here and sent when it is back.',
  );
  if (response.status === 204) return undefined as T;
  const text = await response.text().catch(() => '');
  if (response.ok) {
    try {
      return JSON.parse(text) as T;
    } catch {
      throw new RequestFailure('The answer of the server was cut off.', 0);
    }
  }
  throw failureOf(response, text, `The server answered ${response.status}.`);
}

async function reach(path: string, init: RequestInit, otherwise: string): Promise<Response> {
  try {
    return await fetch(`/api${path}`, init);
  } catch {
    throw new RequestFailure(otherwise, 0);
  }
}

function failureOf(response: Response, text: string, otherwise: string): RequestFailure {
  let problem: Problem | undefined;
  try {
    problem = JSON.parse(text) as Problem;
  } catch {
    // A proxy or a dying server answered with something else.
  }
  if (problem?.code === 'access.sign-in') session.over();
  return new RequestFailure(problem?.title ?? otherwise, problem ? response.status : 0, problem);
}

const NO_SOUND = 'The server does not answer; the sound could not be loaded.';

/** Fetches sound as bytes. @throws RequestFailure */
export async function fetchBytes(path: string): Promise<ArrayBuffer> {
  const response = await reach(path, { headers: { 'x-farlo-guard': guard } }, NO_SOUND);
  if (response.ok) return response.arrayBuffer();
  throw await soundFailure(response);
}

async function soundFailure(response: Response): Promise<RequestFailure> {
  const text = await response.text().catch(() => '');
  return failureOf(response, text, `The sound could not be loaded (${response.status}).`);
}

/**
 * Fetches pieces of packs, one after the other in one answer.
 * @param take given the bytes as they come, and how many came before; they are not kept
 * @throws RequestFailure
 */
export async function fetchPieces(
  reads: readonly PackRead[],
  take: (bytes: Uint8Array, at: number) => void,
): Promise<void> {
  const init = () => ({
    method: 'POST',
    headers: { 'x-farlo-guard': guard, 'content-type': 'application/json' },
    body: JSON.stringify(packReads(reads)),
  });
  let response = await reach('/packs/read', init(), NO_SOUND);
  if (response.status === 403 && (await session.renew()))
    response = await reach('/packs/read', init(), NO_SOUND);
  if (!response.ok) throw await soundFailure(response);
  const expected = reads.reduce((sum, { start, end }) => sum + end - start, 0);
  let at = 0;
  const reader = response.body?.getReader();
  for (;;) {
    const piece = await reader?.read().catch(() => undefined);
    if (!piece || piece.done) break;
    if (at + piece.value.length <= expected) take(piece.value, at);
    at += piece.value.length;
  }
  if (at !== expected) throw new RequestFailure('Less sound arrived than announced. Load it again.', 0);
}
