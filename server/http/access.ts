import { randomBytes, timingSafeEqual } from 'node:crypto';
import type { Request, RequestHandler, Response, Router } from 'express';
import type { Role } from '#api/index.ts';
import { ROLES } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Member, People } from '../store/people.ts';
import { jsonBody } from './json-body.ts';
import './sessions.ts';

/** Who may call a route: anybody, anybody signed in, or members of a studio from a role upwards. */
export type Access = 'public' | 'person' | Role;

/** A route with its access. Every route of the server is declared in this form, so that a test can walk them all. */
export interface Route {
  method: 'get' | 'post' | 'delete';
  path: string;
  access: Access;
  /**
   * For routes about one thing: the studio it belongs to, or undefined when there is no such thing. Callers of
   * other studios are told the same as for things that are not there.
   */
  studioOf?: (request: Request) => Promise<string | undefined>;
  /** Largest JSON body, in kilobytes; 64 unless given. Bodies are read after the caller is known. */
  bodyKb?: number;
  /** Runs before the handler, for example to take in files. */
  before?: RequestHandler[];
  handle: (request: Request, response: Response, member: Member) => Promise<void> | void;
}

const NOBODY: Member = { userId: '', name: '', email: '', studioId: '', studioName: '', role: 'viewer' };
const BODY_KB = 64;

/** The guard of a session, made when it is first asked for; empty for nobody, who gets no session. */
export function guardOf(request: Request): string {
  if (request.session.userId === undefined) return '';
  request.session.guard ??= randomBytes(24).toString('base64url');
  return request.session.guard;
}

function guardFits(request: Request): boolean {
  const sent = Buffer.from(request.get('x-farlo-guard') ?? '');
  const own = Buffer.from(request.session.guard ?? '');
  return own.length > 0 && sent.length === own.length && timingSafeEqual(sent, own);
}

/** Hangs routes into a router with their checks: sign-in, guard of changes, role, and whose thing it is. */
export function mountRoutes(router: Router, routes: readonly Route[], people: People): void {
  for (const route of routes) {
    const check: RequestHandler = (request, response, next) => {
      checkAccess(route, request, people)
        .then((member) => {
          response.locals.member = member;
          next();
        })
        .catch(next);
    };
    const run: RequestHandler = (request, response, next) => {
      Promise.resolve(route.handle(request, response, response.locals.member as Member)).catch(next);
    };
    const body = route.method === 'post' ? [jsonBody(route.bodyKb ?? BODY_KB)] : [];
    router[route.method](route.path, check, ...body, ...(route.before ?? []), run);
  }
}

async function checkAccess(route: Route, request: Request, people: People): Promise<Member> {
  const { userId, studioId } = request.session;
  const changes = route.method !== 'get';
  if (userId === undefined) {
    if (route.access !== 'public') throw new FarloError('access.sign-in', 'Please sign in.');
    // Other sites can send forms, but no header of their own.
    if (changes && request.get('x-farlo-guard') === undefined) throw outOfDate();
    return NOBODY;
  }
  if (changes && !guardFits(request)) throw outOfDate();
  const caller = await people.caller(userId, studioId);
  if (!caller) {
    if (route.access === 'public') return NOBODY;
    throw new FarloError('access.sign-in', 'Please sign in.');
  }
  const { person, member } = caller;
  if (route.access === 'public' || route.access === 'person') return member ?? { ...NOBODY, ...person };
  if (!member)
    throw new FarloError(
      'access.refused',
      'You belong to no studio any more. Ask an owner for an invitation.',
    );
  if (route.studioOf && (await route.studioOf(request)) !== member.studioId)
    throw new FarloError('not-found', 'There is no such thing here.');
  if (ROLES.indexOf(member.role) < ROLES.indexOf(route.access))
    throw new FarloError(
      'access.refused',
      `This needs the role of ${route.access === 'owner' ? 'an owner' : 'an editor'}; you are signed in as ${member.role}.`,
    );
  return member;
}

function outOfDate(): FarloError {
  return new FarloError(
    'access.guard',
    'The page is out of date. Load it again; your unsent edits are kept.',
  );
}
