import { randomUUID } from 'node:crypto';
import type { Request, Response } from 'express';
import { DOCUMENT_KINDS, NewCueShape, PatchShape, type AppliedPatch, type DocumentKind } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Documents } from '../store/documents.ts';
import type { Store } from '../store/database.ts';
import type { People } from '../store/people.ts';
import type { Route } from './access.ts';
import { validBody } from './validate.ts';

const TICKS_OF_16_BARS = 16 * 4 * 960;

/** Tells everyone who has a document open what was applied to it. */
export class Listeners {
  private readonly open = new Map<string, Set<Response>>();

  add(documentId: string, response: Response): void {
    const set = this.open.get(documentId) ?? new Set();
    this.open.set(documentId, set.add(response));
    response.on('close', () => set.delete(response));
  }

  tell(documentId: string, patch: AppliedPatch): void {
    for (const response of this.open.get(documentId) ?? [])
      response.write(`data: ${JSON.stringify(patch)}\n\n`);
  }

  /** Ends all streams, so that the server can stop. */
  close(): void {
    for (const set of this.open.values()) for (const response of set) response.end();
  }
}

function kindOf(request: Request): DocumentKind {
  const kind = DOCUMENT_KINDS.find((known) => known === request.params.kind);
  if (!kind) throw new FarloError('not-found', 'There is no such thing here.');
  return kind;
}

/** Opening, changing and following templates, cues and shelves. */
export function documentRoutes(
  documents: Documents,
  people: People,
  store: Store,
  listeners: Listeners,
): Route[] {
  const studioOf = (request: Request) => documents.studioOf(kindOf(request), String(request.params.id));
  return [
    {
      method: 'get',
      path: '/documents/:kind/:id',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        response.json(await documents.open(kindOf(request), String(request.params.id)));
      },
    },
    {
      method: 'post',
      path: '/documents/:kind/:id/patches',
      access: 'editor',
      studioOf,
      handle: async (request, response, member) => {
        const patch = await validBody(PatchShape, request.body);
        const id = String(request.params.id);
        const applied = await documents.apply(kindOf(request), id, member.userId, member.name, patch);
        response.json(applied);
        listeners.tell(id, applied);
      },
    },
    {
      method: 'get',
      path: '/documents/:kind/:id/history',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        response.json(await documents.history(String(request.params.id), (ids) => people.names(ids)));
      },
    },
    {
      method: 'get',
      path: '/documents/:kind/:id/events',
      access: 'viewer',
      studioOf,
      handle: (request, response) => {
        response.set({ 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-store' });
        response.flushHeaders();
        response.write(': open\n\n');
        listeners.add(String(request.params.id), response);
      },
    },
    {
      method: 'post',
      path: '/cues',
      access: 'editor',
      handle: async (request, response, member) => {
        const { name, templateId } = await validBody(NewCueShape, request.body);
        if ((await documents.studioOf('template', templateId)) !== member.studioId)
          throw new FarloError('not-found', 'There is no such template here.');
        const id = randomUUID();
        await store.models.records.cue.create({
          id,
          studioId: member.studioId,
          templateId,
          revision: 0,
          version: 1,
          name,
          endTick: TICKS_OF_16_BARS,
          loopStartTick: 0,
          loopEndTick: 0,
        });
        response.status(201).json({ id, name, templateId });
      },
    },
  ];
}
