import { hash, verify } from '@node-rs/argon2';
import { createHash, randomBytes, randomUUID } from 'node:crypto';
import { Op, QueryTypes, UniqueConstraintError, type Transaction } from 'sequelize';
import type { InvitationInfo, InvitationOffer, MemberInfo, OwnStudio, Role } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { Store } from './database.ts';

/** What sounds are scored by in a new studio. */
const FIRST_CRITERIA: readonly string[] = ['Sound', 'Range of use', 'Playability', 'Value'];
const DAY_MS = 86_400_000;

/** Somebody who signed in. */
export interface Person {
  userId: string;
  name: string;
  email: string;
}

/** Somebody who signed in, with the studio they work in. */
export interface Member extends Person {
  studioId: string;
  studioName: string;
  role: Role;
}

/** Somebody new, as they say it. */
export interface NewPerson {
  name: string;
  email: string;
  password: string;
}

interface CallerRow {
  name: string;
  email: string;
  studioId: string;
  studioName: string;
  role: Role;
}

/** A user with each of their studios; one row without a studio when they belong to none. */
const CALLER = `
  SELECT users.name, users.email, studios.id AS studioId, studios.name AS studioName, memberships.role
  FROM users
  LEFT JOIN memberships ON memberships.user_id = users.id
  LEFT JOIN studios ON studios.id = memberships.studio_id
  WHERE users.id = ?`;

const byStudioName = (a: CallerRow, b: CallerRow) =>
  a.studioName.localeCompare(b.studioName) || (a.studioId < b.studioId ? -1 : 1);

const plainAddress = (email: string) => email.trim().toLowerCase();
const digest = (token: string) => createHash('sha256').update(token).digest('hex');

/** Users, studios, invitations, and who may do what. */
export class People {
  /** @param now milliseconds; given by tests */
  constructor(
    private readonly store: Store,
    private readonly now: () => number = Date.now,
  ) {}

  /** True while nobody has an account. */
  async isEmpty(): Promise<boolean> {
    return (await this.store.models.users.count()) === 0;
  }

  /** The user with this address and password, or undefined. Takes as long for unknown addresses. */
  async signIn(email: string, password: string): Promise<string | undefined> {
    const user = await this.byAddress(email);
    const fits = await verify(user?.passwordHash ?? (await decoyHash()), password).catch(() => false);
    return user && fits ? user.id : undefined;
  }

  /** Who a user is; undefined when there is no such user. */
  async person(userId: string): Promise<Person | undefined> {
    const user = (await this.store.models.users.findByPk(userId, { raw: true })) as unknown as {
      name: string;
      email: string;
    } | null;
    return user ? { userId, name: user.name, email: user.email } : undefined;
  }

  /** Studios of a user, by name. */
  async studios(userId: string): Promise<OwnStudio[]> {
    const { memberships, studios } = this.store.models;
    const rows = (await memberships.findAll({ where: { userId }, raw: true })) as unknown as {
      studioId: string;
      role: Role;
    }[];
    const named = (await studios.findAll({
      where: { id: rows.map((row) => row.studioId) },
      raw: true,
    })) as unknown as { id: string; name: string }[];
    const roles = new Map(rows.map((row) => [row.studioId, row.role]));
    return named
      .map(({ id, name }) => ({ id, name, role: roles.get(id) ?? 'viewer' }))
      .sort((a, b) => a.name.localeCompare(b.name) || (a.id < b.id ? -1 : 1));
  }

  /**
   * Who a signed-in user is, with the studio they chose, or their first by name; no member when they belong to none.
   * One question to the database, for every request asks it. @returns undefined when there is no such user
   */
  async caller(userId: string, studioId?: string): Promise<{ person: Person; member?: Member } | undefined> {
    const rows = await this.store.sequelize.query<CallerRow>(CALLER, {
      type: QueryTypes.SELECT,
      replacements: [userId],
    });
    if (rows.length === 0) return undefined;
    const person = { userId, name: rows[0].name, email: rows[0].email };
    const own = rows.filter((row) => row.studioId !== null).sort(byStudioName);
    const chosen = own.find((row) => row.studioId === studioId) ?? own[0];
    if (!chosen) return { person };
    const { studioId: id, studioName, role } = chosen;
    return { person, member: { ...person, studioId: id, studioName, role } };
  }

  /** Makes a studio with its shelf and its house. @returns its id */
  async addStudio(name: string, transaction?: Transaction): Promise<string> {
    const id = randomUUID();
    const { studios, records } = this.store.models;
    await studios.create({ id, name }, { transaction });
    await records.house.create(
      {
        id: randomUUID(),
        studioId: id,
        revision: 0,
        version: 1,
        name: 'House',
        ruleSide: 'below',
        ruleGuardKeys: 2,
        ruleSameKeys: true,
        ruleNearest: 'used',
      },
      { transaction },
    );
    // Every studio has one shelf.
    const shelfId = randomUUID();
    await records.shelf.create(
      { id: shelfId, studioId: id, revision: 0, version: 1, name: 'Shelf' },
      { transaction },
    );
    await records.criterion.bulkCreate(
      FIRST_CRITERIA.map((criterion, place) => ({
        id: randomUUID(),
        shelfId,
        version: 1,
        name: criterion,
        weight: 1,
        place,
      })),
      { transaction },
    );
    return id;
  }

  /** Makes a user who belongs to a studio. @throws FarloError when the address is taken */
  async addMember(
    studioId: string,
    { role, ...person }: NewPerson & { role: Role },
    outer?: Transaction,
  ): Promise<string> {
    const id = randomUUID();
    const passwordHash = await hash(person.password);
    const { users, memberships } = this.store.models;
    const write = async (transaction: Transaction) => {
      await users.create(
        { id, name: person.name.trim(), email: plainAddress(person.email), passwordHash },
        { transaction },
      );
      await memberships.create({ userId: id, studioId, role }, { transaction });
    };
    try {
      await (outer ? write(outer) : this.store.sequelize.transaction(write));
    } catch (error) {
      if (error instanceof UniqueConstraintError)
        throw new FarloError(
          'access.taken',
          'Somebody with this address is here already. Sign in as them, then open the link again.',
        );
      throw error;
    }
    return id;
  }

  /** Founds the first studio of an empty server. @returns its owner's id @throws FarloError when somebody was quicker */
  async found(studio: string, owner: NewPerson): Promise<string> {
    return this.store.sequelize.transaction(async (transaction) => {
      // Two at once wait for each other at the one row that every server has.
      await this.store.sequelize.query('SELECT name FROM migrations LIMIT 1 FOR UPDATE', {
        type: 'SELECT' as never,
        transaction,
      });
      if ((await this.store.models.users.count({ transaction })) > 0)
        throw new FarloError(
          'access.founded',
          'This server has its people already. Ask one of them to invite you.',
        );
      const studioId = await this.addStudio(studio.trim(), transaction);
      return this.addMember(studioId, { ...owner, role: 'owner' }, transaction);
    });
  }

  /** Members of a studio, by name. */
  async members(studioId: string): Promise<MemberInfo[]> {
    const { memberships, users } = this.store.models;
    const rows = (await memberships.findAll({ where: { studioId }, raw: true })) as unknown as {
      userId: string;
      role: Role;
    }[];
    const people = (await users.findAll({
      where: { id: rows.map((row) => row.userId) },
      raw: true,
    })) as unknown as { id: string; name: string; email: string }[];
    const roles = new Map(rows.map((row) => [row.userId, row.role]));
    return people
      .map(({ id, name, email }) => ({ userId: id, name, email, role: roles.get(id) ?? 'viewer' }))
      .sort((a, b) => a.name.localeCompare(b.name) || (a.userId < b.userId ? -1 : 1));
  }

  /** Gives a member another role. @throws FarloError when no owner would be left */
  async changeRole(studioId: string, userId: string, role: Role): Promise<void> {
    await this.changeMembership(studioId, userId, async (row) => void (await row.update({ role })));
  }

  /** Takes a member out of a studio; what they did stays. @throws FarloError when no owner would be left */
  async removeMember(studioId: string, userId: string): Promise<void> {
    await this.changeMembership(studioId, userId, (row) => row.destroy());
  }

  /** Makes another member owner and the giver an editor. */
  async handOver(studioId: string, from: string, to: string): Promise<void> {
    await this.store.sequelize.transaction(async (transaction) => {
      const { memberships } = this.store.models;
      const [count] = await memberships.update(
        { role: 'owner' },
        { where: { studioId, userId: to }, transaction },
      );
      if (count === 0 && !(await memberships.findOne({ where: { studioId, userId: to }, transaction })))
        throw new FarloError('not-found', 'There is no such member.');
      if (from !== to)
        await memberships.update({ role: 'editor' }, { where: { studioId, userId: from }, transaction });
    });
  }

  private async changeMembership(
    studioId: string,
    userId: string,
    change: (row: { update(fields: object): Promise<unknown>; destroy(): Promise<void> }) => Promise<void>,
  ): Promise<void> {
    await this.store.sequelize.transaction(async (transaction) => {
      // Locking all of them keeps two owners from leaving at the same moment.
      const rows = await this.store.models.memberships.findAll({
        where: { studioId },
        lock: transaction.LOCK.UPDATE,
        transaction,
      });
      const row = rows.find((one) => one.get('userId') === userId);
      if (!row) throw new FarloError('not-found', 'There is no such member.');
      await change({
        update: (fields) => row.update(fields, { transaction }),
        destroy: () => row.destroy({ transaction }),
      });
      const owners = await this.store.models.memberships.count({
        where: { studioId, role: 'owner' },
        transaction,
      });
      if (owners === 0)
        throw new FarloError(
          'access.last-owner',
          'A studio needs an owner. Hand it over to somebody else first.',
        );
    });
  }

  /** Makes an invitation. @returns it with the path of its link, which nobody can read again later */
  async invite(studioId: string, role: Role, days: number): Promise<InvitationInfo> {
    const token = randomBytes(24).toString('base64url');
    const id = randomUUID();
    const expires = new Date(this.now() + days * DAY_MS);
    await this.store.models.invitations.create({ id, studioId, tokenHash: digest(token), role, expires });
    return { id, role, expires: expires.toISOString(), path: `/join/${token}` };
  }

  /** Invitations of a studio that can still be accepted. */
  async invitations(studioId: string): Promise<InvitationInfo[]> {
    const rows = (await this.store.models.invitations.findAll({
      where: { studioId, expires: { [Op.gt]: new Date(this.now()) } },
      order: [['expires', 'ASC']],
      raw: true,
    })) as unknown as { id: string; role: Role; expires: Date }[];
    return rows.map(({ id, role, expires }) => ({ id, role, expires: new Date(expires).toISOString() }));
  }

  async withdraw(studioId: string, id: string): Promise<void> {
    await this.store.models.invitations.destroy({ where: { id, studioId } });
  }

  /** What a link offers. @throws FarloError when it is unknown, used or too old */
  async offer(token: string): Promise<InvitationOffer> {
    const { role, expires, studioId } = await this.invitation(token);
    const studio = (await this.store.models.studios.findByPk(studioId, { raw: true })) as unknown as {
      name: string;
    };
    return { studio: studio.name, role, expires: new Date(expires).toISOString() };
  }

  /**
   * Accepts an invitation, which is used up by it.
   * @param who somebody new, or the id of a user
   * @returns the user's id and the studio's
   */
  async accept(token: string, who: NewPerson | string): Promise<{ userId: string; studioId: string }> {
    return this.store.sequelize.transaction(async (transaction) => {
      const { id, role, studioId } = await this.invitation(token, transaction);
      if (typeof who !== 'string') {
        const userId = await this.addMember(studioId, { ...who, role }, transaction);
        await this.store.models.invitations.destroy({ where: { id }, transaction });
        return { userId, studioId };
      }
      const { memberships, invitations } = this.store.models;
      // Somebody who belongs to the studio already keeps what they may.
      if (!(await memberships.findOne({ where: { userId: who, studioId }, transaction }))) {
        await memberships.create({ userId: who, studioId, role }, { transaction });
        await invitations.destroy({ where: { id }, transaction });
      }
      return { userId: who, studioId };
    });
  }

  private async invitation(
    token: string,
    transaction?: Transaction,
  ): Promise<{ id: string; role: Role; expires: Date; studioId: string }> {
    const row = (await this.store.models.invitations.findOne({
      where: { tokenHash: digest(token), expires: { [Op.gt]: new Date(this.now()) } },
      raw: true,
      transaction,
      ...(transaction ? { lock: transaction.LOCK.UPDATE } : {}),
    })) as unknown as { id: string; role: Role; expires: Date; studioId: string } | null;
    if (!row)
      throw new FarloError(
        'access.invitation',
        'This invitation was used, withdrawn or is too old. Ask for a new one.',
      );
    return row;
  }

  async rename(userId: string, name: string): Promise<void> {
    await this.store.models.users.update({ name: name.trim() }, { where: { id: userId } });
  }

  async setPassword(userId: string, password: string): Promise<void> {
    const passwordHash = await hash(password);
    await this.store.models.users.update({ passwordHash }, { where: { id: userId } });
  }

  /** Gives the user with an address another password. @returns their id, or undefined when there is no such user */
  async resetPassword(email: string, password: string): Promise<string | undefined> {
    const user = await this.byAddress(email);
    if (user) await this.setPassword(user.id, password);
    return user?.id;
  }

  /** Ends the sessions of a user. @param except id of one that goes on */
  async endSessions(userId: string, except = ''): Promise<void> {
    await this.store.models.sessions.destroy({ where: { userId, sid: { [Op.ne]: except } } });
  }

  /** Names by user id. */
  async names(userIds: readonly string[]): Promise<Map<string, string>> {
    const rows = (await this.store.models.users.findAll({
      where: { id: [...new Set(userIds)] },
      raw: true,
    })) as unknown as { id: string; name: string }[];
    return new Map(rows.map((row) => [row.id, row.name]));
  }

  private async byAddress(email: string): Promise<{ id: string; passwordHash: string } | null> {
    const where = { email: plainAddress(email) };
    return (await this.store.models.users.findOne({ where, raw: true })) as unknown as {
      id: string;
      passwordHash: string;
    } | null;
  }
}

let decoy: Promise<string> | undefined;
function decoyHash(): Promise<string> {
  decoy ??= hash(randomUUID());
  return decoy;
}
