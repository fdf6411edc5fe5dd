import type { ErrorRequestHandler } from 'express';
import type { Logger } from 'pino';
import type { Problem } from '#api/index.ts';
import { describeError, FarloError } from '#core/errors/index.ts';
import { StalePatch } from '../store/documents.ts';

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

function toKnown(error: unknown): FarloError {
  if (error instanceof FarloError) return error;
  const { type, code, name } = error as { type?: string; code?: string; name?: string };
  if (type === 'entity.too.large' || code === 'LIMIT_FILE_SIZE')
    return new FarloError('request.too-large', 'That is more than Farlo takes at once.');
  if (type === 'entity.parse.failed')
    return new FarloError('request.invalid', 'The request is not readable JSON.');
  if (name === 'MulterError') return new FarloError('request.invalid', 'The upload was not understood.');
  return new FarloError(
    'server.failure',
    'Something went wrong inside the server. Your edits are kept; try again in a moment.',
  );
}
