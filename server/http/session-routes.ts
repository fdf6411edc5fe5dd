import { rateLimit } from 'express-rate-limit';
import { SignInShape, type SessionInfo, type StudioOverview } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { DEMO_PEOPLE } from '../demo/people.ts';
import type { Store } from '../store/database.ts';
import type { Member, People } from '../store/people.ts';
import { guardOf, type Route } from './access.ts';
import { validBody } from './validate.ts';

/** Signing in and out, and what the studio has. */
export function sessionRoutes(people: People, store: Store, demo: boolean): Route[] {
  const describe = (member: Member, guard: string): SessionInfo => ({
    user: member.userId === '' ? null : { id: member.userId, name: member.name, email: member.email },
    studio: member.userId === '' ? null : { id: member.studioId, name: member.studioName, role: member.role },
    guard,
    demo: demo ? DEMO_PEOPLE : [],
  });
  const limit = rateLimit({
    windowMs: 60_000,
    limit: 20,
    skipSuccessfulRequests: true,
    handler: (_request, _response, next) =>
      next(new FarloError('access.too-many', 'Too many tries. Wait a minute, then try again.')),
  });
  return [
    {
      method: 'get',
      path: '/session',
      access: 'public',
      handle: (request, response, member) => {
        response.json(describe(member, guardOf(request)));
      },
    },
    {
      method: 'post',
      path: '/session',
      access: 'public',
      before: [limit],
      handle: async (request, response) => {
        const { email, password } = await validBody(SignInShape, request.body);
        const userId = await people.signIn(email, password);
        const member = userId && (await people.member(userId));
        if (!member)
          throw new FarloError('access.wrong-password', 'No one here has this address and password.');
        // A new session id, so that one fixed before signing in is worth nothing.
        await new Promise<void>((resolve, reject) =>
          request.session.regenerate((error) => (error ? reject(error as Error) : resolve())),
        );
        request.session.userId = member.userId;
        response.json(describe(member, guardOf(request)));
      },
    },
    {
      method: 'delete',
      path: '/session',
      access: 'public',
      handle: async (request, response) => {
        await new Promise<void>((resolve) => request.session.destroy(() => resolve()));
        response.status(204).end();
      },
    },
    {
      method: 'get',
      path: '/studio',
      access: 'viewer',
      handle: async (_request, response, member) => {
        const where = { studioId: member.studioId };
        const { template, cue, shelf } = store.models.records;
        const templates = (await template.findAll({
          where,
          order: [['name', 'ASC']],
          raw: true,
        })) as unknown as { id: string; name: string }[];
        const cues = (await cue.findAll({ where, order: [['name', 'ASC']], raw: true })) as unknown as {
          id: string;
          name: string;
          templateId: string;
        }[];
        const own = (await shelf.findOne({ where, raw: true })) as unknown as { id: string };
        const overview: StudioOverview = {
          shelfId: own.id,
          templates: templates.map(({ id, name }) => ({ id, name })),
          cues: cues.map(({ id, name, templateId }) => ({ id, name, templateId })),
        };
        response.json(overview);
      },
    },
  ];
}
