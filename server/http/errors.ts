import type { ErrorRequestHandler } from 'express';
import type { Logger } from 'pino';
import type { Problem } from '#api/index.ts';
import { describeError, FarloError } from '#core/errors/index.ts';
import { StalePatch } from '../store/patching.ts';
import { TOO_DEEP } from './json-body.ts';

/** Answers every failure as `application/problem+json`; what is inside an unexpected one stays in the log. */
export function errorHandler(log: Logger): ErrorRequestHandler {
  return (error: unknown, request, response, next) => {
    if (response.headersSent) {
      next(error);
      return;
    }
    const known = toKnown(error);
    if (known.status >= 500) log.error({ err: error, path: request.path }, 'request failed');
    const problem: Problem = {
      title: describeError(known),
      status: known.status,
      code: known.code,
      place: { ...known.place },
      ...(known instanceof StalePatch ? { conflicts: known.conflicts } : {}),
    };
    response.status(known.status).type('application/problem+json').send(JSON.stringify(problem));
  };
}

/** Failures that the disk gives, in words. */
export function diskTrouble(code: string | undefined): FarloError | undefined {
  if (code === 'ENOSPC' || code === 'EDQUOT')
    return new FarloError('disk.full', 'The disk of the server is full. Free some space, then try again.');
  if (code === 'EROFS' || code === 'EACCES' || code === 'EPERM')
    return new FarloError(
      'disk.read-only',
      'The server may not write into its data folder. Give it the right to, then try again.',
    );
  return undefined;
}

/** Any failure as one that can be told. */
export function toKnown(error: unknown): FarloError {
  if (error instanceof FarloError) return error;
  const { type, code, name, status, original } = error as {
    type?: string;
    code?: string;
    name?: string;
    status?: number;
    original?: { code?: string };
  };
  if (type === 'entity.too.large' || code === 'LIMIT_FILE_SIZE' || code === 'LIMIT_FILE_COUNT')
    return new FarloError('request.too-large', 'That is more than Farlo takes at once.');
  if (type === 'entity.parse.failed')
    return new FarloError('request.invalid', 'The request is not readable JSON.');
  if (type === 'charset.unsupported' || type === 'encoding.unsupported')
    return new FarloError('request.charset', 'The request is written in an unknown way. Send JSON as UTF-8.');
  if (type === TOO_DEEP)
    return new FarloError('request.invalid', 'The request is nested deeper than anything Farlo asks for.');
  if (name === 'MulterError') return new FarloError('request.invalid', 'The upload was not understood.');
  if (original?.code === 'ER_DATA_TOO_LONG')
    return new FarloError('request.invalid', 'A text is longer than Farlo keeps.');
  if (status !== undefined && status >= 400 && status < 500)
    return new FarloError('request.invalid', 'The request or its address was not understood.');
  return (
    diskTrouble(code) ??
    new FarloError(
      'server.failure',
      'Something went wrong inside the server. Your edits are kept; try again in a moment.',
    )
  );
}
