import { hash, verify } from '@node-rs/argon2';
import { randomUUID } from 'node:crypto';
import type { Role } from '#api/index.ts';
import type { Store } from './database.ts';

/** What sounds are scored by in a new studio. */
const FIRST_CRITERIA: readonly string[] = ['Sound', 'Range of use', 'Playability', 'Value'];

/** Somebody who signed in, with the studio they work in. */
export interface Member {
  userId: string;
  name: string;
  email: string;
  studioId: string;
  studioName: string;
  role: Role;
}

/** Users, studios and who may do what. */
export class People {
  constructor(private readonly store: Store) {}

  /** The member with this address and password, or undefined. Takes as long for unknown addresses. */
  async signIn(email: string, password: string): Promise<string | undefined> {
    const user = await this.store.models.users.findOne({
      where: { email: email.trim().toLowerCase() },
      raw: true,
    });
    const stored = (user as { passwordHash?: string } | null)?.passwordHash ?? (await decoyHash());
    const fits = await verify(stored, password).catch(() => false);
    return user && fits ? (user as unknown as { id: string }).id : undefined;
  }

  /** Who a user is and where they work; undefined when they belong to no studio. */
  async member(userId: string): Promise<Member | undefined> {
    const { users, memberships, studios } = this.store.models;
    const user = (await users.findByPk(userId, { raw: true })) as unknown as {
      id: string;
      name: string;
      email: string;
    } | null;
    const membership = (await memberships.findOne({ where: { userId }, raw: true })) as unknown as {
      studioId: string;
      role: Role;
    } | null;
    if (!user || !membership) return undefined;
    const studio = (await studios.findByPk(membership.studioId, { raw: true })) as unknown as {
      name: string;
    };
    return {
      userId,
      name: user.name,
      email: user.email,
      studioId: membership.studioId,
      studioName: studio.name,
      role: membership.role,
    };
  }

  async addStudio(name: string): Promise<string> {
    const id = randomUUID();
    const { studios, records } = this.store.models;
    await studios.create({ id, name });
    // Every studio has one shelf.
    const shelfId = randomUUID();
    await records.shelf.create({ id: shelfId, studioId: id, revision: 0, version: 1, name: 'Shelf' });
    await records.criterion.bulkCreate(
      FIRST_CRITERIA.map((criterion, place) => ({
        id: randomUUID(),
        shelfId,
        version: 1,
        name: criterion,
        weight: 1,
        place,
      })),
    );
    return id;
  }

  async addMember(
    studioId: string,
    person: { name: string; email: string; password: string; role: Role },
  ): Promise<string> {
    const id = randomUUID();
    const passwordHash = await hash(person.password);
    await this.store.sequelize.transaction(async (transaction) => {
      await this.store.models.users.create(
        { id, name: person.name, email: person.email.toLowerCase(), passwordHash },
        { transaction },
      );
      await this.store.models.memberships.create(
        { userId: id, studioId, role: person.role },
        { transaction },
      );
    });
    return id;
  }

  /** Names by user id. */
  async names(userIds: readonly string[]): Promise<Map<string, string>> {
    const rows = (await this.store.models.users.findAll({
      where: { id: [...new Set(userIds)] },
      raw: true,
    })) as unknown as { id: string; name: string }[];
    return new Map(rows.map((row) => [row.id, row.name]));
  }
}

let decoy: Promise<string> | undefined;
function decoyHash(): Promise<string> {
  decoy ??= hash(randomUUID());
  return decoy;
}
