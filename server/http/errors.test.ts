import type { Request, Response } from 'express';
import pino from 'pino';
import { describe, expect, it, vi } from 'vitest';
import { FarloError } from '#core/errors/index.ts';
import { StalePatch } from '../store/patching.ts';
import { diskTrouble, errorHandler, toKnown } from './errors.ts';

describe('a failure is told', () => {
  it.each<[string, object, number, string]>([
    ['too large a body', { type: 'entity.too.large' }, 413, 'request.too-large'],
    ['too large a file', { name: 'MulterError', code: 'LIMIT_FILE_SIZE' }, 413, 'request.too-large'],
    ['too many files', { name: 'MulterError', code: 'LIMIT_FILE_COUNT' }, 413, 'request.too-large'],
    [
      'another trouble of an upload',
      { name: 'MulterError', code: 'LIMIT_UNEXPECTED_FILE' },
      400,
      'request.invalid',
    ],
    ['no JSON', { type: 'entity.parse.failed', status: 400 }, 400, 'request.invalid'],
    ['too deep JSON', { type: 'entity.too.deep' }, 400, 'request.invalid'],
    ['an unknown charset', { type: 'charset.unsupported', status: 415 }, 415, 'request.charset'],
    ['an unknown packing', { type: 'encoding.unsupported', status: 415 }, 415, 'request.charset'],
    [
      'a text that is too long for its column',
      { original: { code: 'ER_DATA_TOO_LONG' } },
      400,
      'request.invalid',
    ],
    ['an address that cannot be read', { status: 400 }, 400, 'request.invalid'],
    ['the last of what callers do wrong', { status: 499 }, 400, 'request.invalid'],
    ['what others do wrong', { status: 399 }, 500, 'server.failure'],
    ['what we do wrong', { status: 500 }, 500, 'server.failure'],
    ['a full disk', { code: 'ENOSPC' }, 507, 'disk.full'],
    ['a used up share of the disk', { code: 'EDQUOT' }, 507, 'disk.full'],
    ['a disk that cannot be written', { code: 'EROFS' }, 500, 'disk.read-only'],
    ['a folder that may not be written', { code: 'EACCES' }, 500, 'disk.read-only'],
    ['a folder that may not be changed', { code: 'EPERM' }, 500, 'disk.read-only'],
    ['anything else', { message: 'secret of the inside' }, 500, 'server.failure'],
  ])('%s', (_name, error, status, code) => {
    const known = toKnown(error);
    expect([known.status, known.code]).toEqual([status, code]);
    expect(known.message).toMatch(/^[A-Z].{10,}\.$/);
    expect(known.message).not.toContain('secret');
  });
  it('as what it is when it is one of ours', () => {
    const own = new FarloError('not-found', 'Gone.');
    expect(toKnown(own)).toBe(own);
    expect(diskTrouble('ENOENT')).toBeUndefined();
    expect(diskTrouble(undefined)).toBeUndefined();
  });
});

describe('an answer', () => {
  const answered = (error: unknown, headersSent = false) => {
    const log = pino({ level: 'silent' });
    const logged = vi.spyOn(log, 'error');
    const next = vi.fn();
    const sent: { status?: number; type?: string; body?: Record<string, unknown> } = {};
    const response = {
      headersSent,
      status: (status: number) => ((sent.status = status), response),
      type: (type: string) => ((sent.type = type), response),
      send: (text: string) => (sent.body = JSON.parse(text) as Record<string, unknown>),
    };
    void errorHandler(log)(error, { path: '/x' } as Request, response as unknown as Response, next);
    return { sent, logged: logged.mock.calls.length, next: next.mock.calls };
  };
  it('is a problem with sentence, code and place', () => {
    const { sent, logged } = answered(
      new FarloError('sfz.syntax', 'No such opcode.', { file: 'a.sfz', line: 3 }),
    );
    expect(sent).toEqual({
      status: 422,
      type: 'application/problem+json',
      body: {
        title: 'a.sfz, line 3: No such opcode.',
        status: 422,
        code: 'sfz.syntax',
        place: { file: 'a.sfz', line: 3 },
      },
    });
    expect(logged).toBe(0);
  });
  it('to a stale patch tells what is there now', () => {
    const conflicts = [{ kind: 'note' as const, id: 'n', current: null }];
    expect(answered(new StalePatch(conflicts)).sent.body).toMatchObject({
      status: 409,
      code: 'patch.stale',
      conflicts,
    });
    expect(answered(new FarloError('not-found', 'Gone.')).sent.body).not.toHaveProperty('conflicts');
  });
  it('to what is our fault is logged whole', () => {
    expect(answered(new Error('inside')).logged).toBe(1);
  });
  it('that has begun is left to end by itself', () => {
    const error = new Error('cut');
    expect(answered(error, true)).toEqual({ sent: {}, logged: 0, next: [[error]] });
  });
});
