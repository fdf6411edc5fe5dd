import type { Request } from 'express';
import {
  BackShape,
  DOCUMENT_KINDS,
  NewDocumentShape,
  PatchShape,
  PointingShape,
  type AppliedPatch,
  type DocumentKind,
  type StudioOverview,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Documents } from '../store/documents.ts';
import type { Member, People } from '../store/people.ts';
import type { Route } from './access.ts';
import type { Streams } from './streams.ts';
import { validBody } from './validate.ts';

/** Two thousand changes of ordinary size, with room. */
const PATCH_KB = 4096;

function kindOf(request: Request): DocumentKind {
  const kind = DOCUMENT_KINDS.find((known) => known === request.params.kind);
  if (!kind) throw new FarloError('not-found', 'There is no such thing here.');
  return kind;
}

const idOf = (request: Request) => String(request.params.id);

/** Opening, changing and following templates, cues and shelves. */
export function documentRoutes(documents: Documents, people: People, streams: Streams): Route[] {
  const studioOf = (request: Request) => documents.studioOf(kindOf(request), idOf(request));
  const tell = (member: Member, documentId: string, applied: AppliedPatch) => {
    streams.tellPatch(member.studioId, documentId, applied);
    // Its name stands in lists that other views show.
    if (
      applied.changes.some(
        ({ kind, fields }) => (kind === 'cue' || kind === 'template') && fields && 'name' in fields,
      )
    )
      streams.tell(member.studioId, { kind: 'documents' });
  };
  return [
    {
      method: 'get',
      path: '/studio',
      access: 'viewer',
      handle: async (_request, response, { studioId }) => {
        const [templates, cues, shelves, houses] = await Promise.all([
          documents.heads('template', studioId),
          documents.heads('cue', studioId),
          documents.heads('shelf', studioId),
          documents.heads('house', studioId),
        ]);
        const overview: StudioOverview = {
          shelfId: shelves[0].id,
          houseId: houses[0].id,
          templates: templates.map(({ id, name }) => ({ id, name })),
          cues: cues.map(({ id, name, templateId }) => ({ id, name, templateId: String(templateId) })),
        };
        response.json(overview);
      },
    },
    {
      method: 'get',
      path: '/events',
      access: 'viewer',
      handle: (request, response, { userId, name, studioId }) =>
        streams.add({ userId, name, studioId, sessionId: request.sessionID, response }, () =>
          documents.revisions(studioId),
        ),
    },
    {
      method: 'post',
      path: '/documents',
      access: 'editor',
      handle: async (request, response, member) => {
        const { kind, name, templateId, copyOf } = await validBody(NewDocumentShape, request.body);
        const own = async (of: DocumentKind, id: string) => {
          if ((await documents.studioOf(of, id)) !== member.studioId)
            throw new FarloError('not-found', `There is no such ${of} here.`);
          return id;
        };
        let id: string;
        if (copyOf !== undefined) id = await documents.copy(kind, await own(kind, copyOf), name);
        else if (kind === 'template') id = await documents.newTemplate(member.studioId, name);
        else if (templateId === undefined)
          throw new FarloError('request.invalid', 'A cue needs a template to be made in.');
        else id = await documents.newCue(member.studioId, name, await own('template', templateId));
        streams.tell(member.studioId, { kind: 'documents' });
        response.status(201).json({ id });
      },
    },
    {
      method: 'get',
      path: '/documents/:kind/:id',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        response.json(await documents.open(kindOf(request), idOf(request)));
      },
    },
    {
      method: 'delete',
      path: '/documents/:kind/:id',
      access: 'editor',
      studioOf,
      handle: async (request, response, member) => {
        const kind = kindOf(request);
        if (kind === 'shelf' || kind === 'house')
          throw new FarloError('request.invalid', `A studio keeps its ${kind}.`);
        await documents.remove(kind, idOf(request));
        streams.tell(member.studioId, { kind: 'documents' });
        response.status(204).end();
      },
    },
    {
      method: 'post',
      path: '/documents/:kind/:id/patches',
      access: 'editor',
      studioOf,
      bodyKb: PATCH_KB,
      handle: async (request, response, member) => {
        const patch = await validBody(PatchShape, request.body);
        const { userId, name } = member;
        const applied = await documents.apply(kindOf(request), idOf(request), userId, name, patch);
        response.json(applied);
        tell(member, idOf(request), applied);
      },
    },
    {
      method: 'post',
      path: '/documents/:kind/:id/pointing',
      access: 'viewer',
      studioOf,
      handle: async (request, response, { userId, name, studioId }) => {
        const { tab, trackId, noteIds } = await validBody(PointingShape, request.body);
        streams.tell(studioId, {
          kind: 'pointing',
          documentId: idOf(request),
          userId,
          name,
          tab,
          trackId,
          noteIds,
        });
        response.status(204).end();
      },
    },
    {
      method: 'get',
      path: '/documents/:kind/:id/history',
      access: 'viewer',
      studioOf,
      handle: async (request, response) => {
        const before = Number(request.query.before ?? Number.MAX_SAFE_INTEGER);
        if (!Number.isInteger(before) || before < 0)
          throw new FarloError('request.invalid', 'The history is asked for before a revision.');
        response.json(await documents.history(idOf(request), (ids) => people.names(ids), before));
      },
    },
    {
      method: 'post',
      path: '/documents/:kind/:id/back',
      access: 'editor',
      studioOf,
      handle: async (request, response, member) => {
        const { revision } = await validBody(BackShape, request.body);
        const context = {
          document: kindOf(request),
          documentId: idOf(request),
          userId: member.userId,
          author: member.name,
        };
        const applied = await documents.back(context, revision);
        response.json({ revision: applied.revision });
        tell(member, context.documentId, applied);
      },
    },
  ];
}
