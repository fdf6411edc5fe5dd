import { InviteShape, RoleShape } from '#api/index.ts';
import type { People } from '../store/people.ts';
import type { Route } from './access.ts';
import type { Streams } from './streams.ts';
import { validBody } from './validate.ts';

/** Members of a studio, their roles, and invitations. */
export function peopleRoutes(people: People, streams: Streams): Route[] {
  const changed = (studioId: string, ...userIds: string[]) => {
    streams.tell(studioId, { kind: 'members' });
    for (const userId of userIds) streams.drop(userId);
  };
  return [
    {
      method: 'get',
      path: '/members',
      access: 'viewer',
      handle: async (_request, response, { studioId }) => {
        response.json(await people.members(studioId));
      },
    },
    {
      method: 'post',
      path: '/members/:id/role',
      access: 'owner',
      handle: async (request, response, { studioId }) => {
        const { role } = await validBody(RoleShape, request.body);
        const userId = String(request.params.id);
        await people.changeRole(studioId, userId, role);
        changed(studioId, userId);
        response.json(await people.members(studioId));
      },
    },
    {
      method: 'delete',
      path: '/members/:id',
      access: 'owner',
      handle: async (request, response, { studioId }) => {
        const userId = String(request.params.id);
        await people.removeMember(studioId, userId);
        changed(studioId, userId);
        response.json(await people.members(studioId));
      },
    },
    {
      method: 'post',
      path: '/members/:id/hand-over',
      access: 'owner',
      handle: async (request, response, { studioId, userId }) => {
        const to = String(request.params.id);
        await people.handOver(studioId, userId, to);
        changed(studioId, userId, to);
        response.json(await people.members(studioId));
      },
    },
    {
      method: 'post',
      path: '/members/leave',
      access: 'viewer',
      handle: async (_request, response, { studioId, userId }) => {
        await people.removeMember(studioId, userId);
        changed(studioId, userId);
        response.status(204).end();
      },
    },
    {
      method: 'get',
      path: '/invitations',
      access: 'owner',
      handle: async (_request, response, { studioId }) => {
        response.json(await people.invitations(studioId));
      },
    },
    {
      method: 'post',
      path: '/invitations',
      access: 'owner',
      handle: async (request, response, { studioId }) => {
        const { role, days } = await validBody(InviteShape, request.body);
        response.status(201).json(await people.invite(studioId, role, days));
      },
    },
    {
      method: 'delete',
      path: '/invitations/:id',
      access: 'owner',
      handle: async (request, response, { studioId }) => {
        await people.withdraw(studioId, String(request.params.id));
        response.status(204).end();
      },
    },
  ];
}
