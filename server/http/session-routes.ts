import type { Request } from 'express';
import {
  AcceptShape,
  FoundShape,
  NewPersonShape,
  OwnNameShape,
  OwnPasswordShape,
  SignInShape,
  StudioChoiceShape,
  type SessionInfo,
} from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { DEMO_PEOPLE } from '../demo/people.ts';
import type { NewPerson, People } from '../store/people.ts';
import { guardOf, type Route } from './access.ts';
import { checkPassword } from './password-rules.ts';
import { beginSession } from './sessions.ts';
import { SignInThrottle } from './sign-in-throttle.ts';
import type { Streams } from './streams.ts';
import { validBody } from './validate.ts';

/** What signing in and founding need to know of the server. */
export interface SessionSettings {
  demo: boolean;
  /** Asked for when the first studio is founded; undefined where only this machine reaches the server. */
  foundingCode: string | undefined;
}

/** Signing in and out, founding, joining, and a person's own name, password and sessions. */
export function sessionRoutes(
  people: People,
  streams: Streams,
  { demo, foundingCode }: SessionSettings,
  throttle = new SignInThrottle(),
): Route[] {
  const describe = async (request: Request): Promise<SessionInfo> => {
    const { userId, studioId } = request.session;
    const person = userId === undefined ? undefined : await people.person(userId);
    const studios = person ? await people.studios(person.userId) : [];
    return {
      user: person ? { id: person.userId, name: person.name, email: person.email } : null,
      studio: studios.find(({ id }) => id === studioId) ?? studios[0] ?? null,
      studios,
      guard: person ? guardOf(request) : '',
      founding: !demo && !person && (await people.isEmpty()) ? { code: foundingCode !== undefined } : null,
      demo: demo ? DEMO_PEOPLE : [],
    };
  };
  const checked = (person: NewPerson, studio = ''): NewPerson => {
    checkPassword(person.password, [person.name, person.email, studio]);
    return person;
  };
  return [
    {
      method: 'get',
      path: '/session',
      access: 'public',
      handle: async (request, response) => {
        response.json(await describe(request));
      },
    },
    {
      method: 'post',
      path: '/session',
      access: 'public',
      bodyKb: 4,
      handle: async (request, response) => {
        const { email, password } = await validBody(SignInShape, request.body);
        const userId = await throttle.run(email.trim().toLowerCase(), () => people.signIn(email, password));
        if (userId === undefined)
          throw new FarloError('access.wrong-password', 'No one here has this address and password.');
        await beginSession(request, userId);
        response.json(await describe(request));
      },
    },
    {
      method: 'delete',
      path: '/session',
      access: 'public',
      handle: async (request, response) => {
        streams.dropSession(request.sessionID);
        await new Promise<void>((resolve) => request.session.destroy(() => resolve()));
        response.status(204).end();
      },
    },
    {
      method: 'post',
      path: '/found',
      access: 'public',
      bodyKb: 4,
      handle: async (request, response) => {
        const { studio, code, name, email, password } = await validBody(FoundShape, request.body);
        if (demo || !(await people.isEmpty()))
          throw new FarloError(
            'access.founded',
            'This server has its people already. Ask one of them to invite you.',
          );
        if (foundingCode !== undefined && code?.trim() !== foundingCode)
          throw new FarloError(
            'request.invalid',
            'The code is not the one shown where the server was started.',
          );
        const userId = await people.found(studio, checked({ name, email, password }, studio));
        await beginSession(request, userId);
        response.status(201).json(await describe(request));
      },
    },
    {
      method: 'get',
      path: '/invitations/:token',
      access: 'public',
      handle: async (request, response) => {
        response.json(await people.offer(String(request.params.token)));
      },
    },
    {
      method: 'post',
      path: '/join',
      access: 'public',
      bodyKb: 4,
      handle: async (request, response, member) => {
        const { token, ...said } = await validBody(AcceptShape, request.body);
        // The token must be right before anything is said about addresses.
        await people.offer(token);
        const who = member.userId !== '' ? member.userId : checked(await validBody(NewPersonShape, said));
        const { userId, studioId } = await people.accept(token, who);
        await beginSession(request, userId, studioId);
        streams.tell(studioId, { kind: 'members' });
        response.json(await describe(request));
      },
    },
    {
      method: 'post',
      path: '/session/studio',
      access: 'person',
      handle: async (request, response, { userId }) => {
        const { studioId } = await validBody(StudioChoiceShape, request.body);
        if (!(await people.studios(userId)).some(({ id }) => id === studioId))
          throw new FarloError('not-found', 'You do not belong to this studio.');
        request.session.studioId = studioId;
        response.json(await describe(request));
      },
    },
    {
      method: 'post',
      path: '/me/name',
      access: 'person',
      handle: async (request, response, { userId }) => {
        const { name } = await validBody(OwnNameShape, request.body);
        await people.rename(userId, name);
        for (const { id } of await people.studios(userId)) streams.tell(id, { kind: 'members' });
        response.json(await describe(request));
      },
    },
    {
      method: 'post',
      path: '/me/password',
      access: 'person',
      bodyKb: 4,
      handle: async (request, response, { userId, email, name }) => {
        const { current, next } = await validBody(OwnPasswordShape, request.body);
        if ((await throttle.run(email, () => people.signIn(email, current))) === undefined)
          throw new FarloError('access.wrong-password', 'The present password is another one.');
        checkPassword(next, [name, email]);
        await people.setPassword(userId, next);
        await people.endSessions(userId, request.sessionID);
        response.status(204).end();
      },
    },
    {
      method: 'post',
      path: '/me/end-other-sessions',
      access: 'person',
      handle: async (request, response, { userId }) => {
        await people.endSessions(userId, request.sessionID);
        response.status(204).end();
      },
    },
  ];
}
