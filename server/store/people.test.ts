import { afterAll, describe, expect, it } from 'vitest';
import { beforeAll } from '../testing/hooks.ts';
import { startApp, type TestApp } from '../testing/app.ts';
import { People } from './people.ts';

let test: TestApp;
let people: People;
let now = Date.parse('2026-11-27T12:00:00Z');
beforeAll(async () => {
  test = await startApp();
  people = new People(test.store, () => now);
});
afterAll(() => test.close());

let count = 0;
const person = (name = 'Nell Quay') => ({
  name,
  email: `  Nell${++count}@Quay.example `,
  password: 'a lamp in the fog',
});
const sentence = (work: Promise<unknown>) =>
  work.then(
    () => undefined,
    (error: { code: string }) => error.code,
  );
const roles = async (studioId: string) =>
  (await people.members(studioId)).map(({ name, role }) => `${name} ${role}`);

describe('signing in', () => {
  it('takes the address in any spelling, and the password only as it is', async () => {
    const studio = await people.addStudio('Quay');
    const id = await people.addMember(studio, { ...person(), role: 'viewer' });
    const address = `nell${count}@quay.example`;
    expect(await people.signIn(` NELL${count}@quay.EXAMPLE`, 'a lamp in the fog')).toBe(id);
    expect(await people.signIn(address, 'a lamp in the Fog')).toBeUndefined();
    expect(await people.signIn('nobody@quay.example', 'a lamp in the fog')).toBeUndefined();
    expect(await people.person(id)).toEqual({ userId: id, name: 'Nell Quay', email: address });
    expect(await people.person('nobody')).toBeUndefined();
  });
  it('keeps no password that could be read', async () => {
    const [row] = (await test.store.models.users.findAll({ raw: true, limit: 1 })) as unknown as {
      passwordHash: string;
    }[];
    expect(row.passwordHash).toMatch(/^\$argon2id\$/);
  });
  it('goes by the newest password', async () => {
    const who = person();
    const id = await people.addMember(await people.addStudio('Quay'), { ...who, role: 'owner' });
    const other = { ...person(), password: 'the gull has its own' };
    const otherId = await people.addMember(await people.addStudio('Quay'), { ...other, role: 'owner' });
    await people.setPassword(id, 'another lamp altogether');
    expect(await people.signIn(other.email, other.password)).toBe(otherId);
    expect(await people.signIn(who.email, who.password)).toBeUndefined();
    expect(await people.signIn(who.email, 'another lamp altogether')).toBe(id);
    expect(await people.resetPassword(who.email.toUpperCase(), 'third lamp of the pier')).toBe(id);
    expect(await people.signIn(who.email, 'third lamp of the pier')).toBe(id);
    expect(await people.resetPassword('nobody@quay.example', 'x')).toBeUndefined();
  });
});

describe('a studio', () => {
  it('begins with one shelf, four criteria and one house', async () => {
    const studioId = await people.addStudio('Fresh');
    const [shelf] = (await test.store.models.records.shelf.findAll({
      where: { studioId },
      raw: true,
    })) as unknown as { id: string; name: string }[];
    const criteria = (await test.store.models.records.criterion.findAll({
      where: { shelfId: shelf.id },
      raw: true,
    })) as unknown as { name: string; weight: number; place: number }[];
    expect(shelf.name).toBe('Shelf');
    const houses = await test.store.models.records.house.findAll({ where: { studioId }, raw: true });
    expect(houses).toMatchObject([{ name: 'House', ruleSide: 'below', ruleGuardKeys: 2 }]);
    expect(criteria.sort((a, b) => a.place - b.place).map(({ name, weight }) => `${name} ${weight}`)).toEqual(
      ['Sound 1', 'Range of use 1', 'Playability 1', 'Value 1'],
    );
  });
  it('takes an address only once, and says so', async () => {
    const studio = await people.addStudio('Once');
    const who = { ...person(), role: 'editor' as const };
    await people.addMember(studio, who);
    expect(await sentence(people.addMember(studio, { ...who, email: who.email.toUpperCase() }))).toBe(
      'access.taken',
    );
  });
  it('lists its members by name', async () => {
    const studio = await people.addStudio('Names');
    for (const name of ['Wim', 'Ada', 'Mo'])
      await people.addMember(studio, { ...person(name), role: 'editor' });
    expect(await roles(studio)).toEqual(['Ada editor', 'Mo editor', 'Wim editor']);
  });
  it('is never without an owner', async () => {
    const studio = await people.addStudio('Owned');
    const [first, second] = [
      await people.addMember(studio, { ...person('First'), role: 'owner' }),
      await people.addMember(studio, { ...person('Second'), role: 'editor' }),
    ];
    expect(await sentence(people.changeRole(studio, first, 'editor'))).toBe('access.last-owner');
    expect(await sentence(people.removeMember(studio, first))).toBe('access.last-owner');
    expect(await roles(studio)).toEqual(['First owner', 'Second editor']);
    await people.changeRole(studio, second, 'owner');
    const leaving = await Promise.all([
      sentence(people.removeMember(studio, first)),
      sentence(people.removeMember(studio, second)),
    ]);
    expect(leaving.filter((code) => code === 'access.last-owner')).toHaveLength(1);
    expect(await people.members(studio)).toHaveLength(1);
    expect(await sentence(people.changeRole(studio, 'nobody', 'viewer'))).toBe('not-found');
  });
  it('is handed over in one step', async () => {
    const studio = await people.addStudio('Given');
    const from = await people.addMember(studio, { ...person('From'), role: 'owner' });
    const to = await people.addMember(studio, { ...person('To'), role: 'viewer' });
    await people.handOver(studio, from, to);
    expect(await roles(studio)).toEqual(['From editor', 'To owner']);
    expect(await sentence(people.handOver(studio, to, 'nobody'))).toBe('not-found');
    await people.handOver(studio, to, to);
    expect(await roles(studio)).toEqual(['From editor', 'To owner']);
  });
});

describe('somebody in several studios', () => {
  it('works in the one they chose, else in the first by name', async () => {
    const [b, a] = [await people.addStudio('B studio'), await people.addStudio('A studio')];
    const id = await people.addMember(b, { ...person(), role: 'owner' });
    const { path = '' } = await people.invite(a, 'viewer', 1);
    await people.accept(path.replace('/join/', ''), id);
    expect((await people.studios(id)).map(({ name, role }) => `${name} ${role}`)).toEqual([
      'A studio viewer',
      'B studio owner',
    ]);
    expect((await people.caller(id))?.member).toMatchObject({
      studioId: a,
      studioName: 'A studio',
      role: 'viewer',
    });
    expect((await people.caller(id, b))?.member).toMatchObject({ studioId: b, role: 'owner' });
    expect((await people.caller(id, 'a studio of others'))?.member).toMatchObject({ studioId: a });
    expect((await people.caller('nobody'))?.member).toBeUndefined();
  });
  it('who belongs to none any more is nobody’s member', async () => {
    const studio = await people.addStudio('Left');
    await people.addMember(studio, { ...person(), role: 'owner' });
    const id = await people.addMember(studio, { ...person(), role: 'viewer' });
    await people.removeMember(studio, id);
    expect([(await people.caller(id))?.member, (await people.person(id))?.userId]).toEqual([undefined, id]);
  });
});

describe('an invitation', () => {
  const token = async (studio: string, days = 7) =>
    ((await people.invite(studio, 'editor', days)).path ?? '').replace('/join/', '');
  it('lets one person in, with its role', async () => {
    const studio = await people.addStudio('Host');
    const link = await token(studio);
    expect(await people.offer(link)).toEqual({
      studio: 'Host',
      role: 'editor',
      expires: '2026-12-04T12:00:00.000Z',
    });
    const { userId, studioId } = await people.accept(link, person('Guest'));
    expect([studioId, await roles(studio)]).toEqual([studio, ['Guest editor']]);
    expect(await people.person(userId)).toMatchObject({ name: 'Guest' });
    expect(await sentence(people.accept(link, person()))).toBe('access.invitation');
    expect(await sentence(people.offer(link))).toBe('access.invitation');
  });
  it('is used once also when two come at the same moment', async () => {
    const studio = await people.addStudio('Race');
    const link = await token(studio);
    const codes = await Promise.all(
      [person('One'), person('Two')].map((who) => sentence(people.accept(link, who))),
    );
    expect(codes.filter((code) => code === undefined)).toHaveLength(1);
    expect(await people.members(studio)).toHaveLength(1);
  });
  it('ends with its day', async () => {
    const studio = await people.addStudio('Late');
    const link = await token(studio, 1);
    const start = now;
    now += 86_400_000 - 1000;
    expect((await people.invitations(studio)).length).toBe(1);
    now += 2000;
    expect([await sentence(people.offer(link)), await people.invitations(studio)]).toEqual([
      'access.invitation',
      [],
    ]);
    now = start;
  });
  it('can be withdrawn, by its own studio only', async () => {
    const [studio, other] = [await people.addStudio('Mine'), await people.addStudio('Theirs')];
    const link = await token(studio);
    const [{ id }] = await people.invitations(studio);
    await people.withdraw(other, id);
    expect((await people.offer(link)).studio).toBe('Mine');
    await people.withdraw(studio, id);
    expect(await sentence(people.offer(link))).toBe('access.invitation');
  });
  it('is not shown again, nor kept readable', async () => {
    const studio = await people.addStudio('Secret');
    const link = await token(studio);
    expect(JSON.stringify(await people.invitations(studio))).not.toContain(link);
    expect(JSON.stringify(await test.store.models.invitations.findAll({ raw: true }))).not.toContain(link);
  });
  it('does not take anything from somebody who is in already', async () => {
    const studio = await people.addStudio('Already');
    const id = await people.addMember(studio, { ...person('Boss'), role: 'owner' });
    const link = await token(studio);
    await people.accept(link, id);
    expect(await roles(studio)).toEqual(['Boss owner']);
    expect((await people.offer(link)).studio).toBe('Already');
  });
  it('that fails leaves nobody behind', async () => {
    const studio = await people.addStudio('Half');
    const taken = person();
    await people.addMember(studio, { ...taken, role: 'owner' });
    const users = await test.store.models.users.count();
    expect(await sentence(people.accept(await token(studio), taken))).toBe('access.taken');
    expect(await test.store.models.users.count()).toBe(users);
    expect((await people.invitations(studio)).length).toBe(1);
  });
});

describe('an empty server', () => {
  it('is founded once, also when two do it at the same moment', async () => {
    const empty = await startApp({ demo: false });
    try {
      expect(await empty.people.isEmpty()).toBe(true);
      const codes = await Promise.all([
        sentence(empty.people.found(' Lamp House ', person('One'))),
        sentence(empty.people.found('Other', person('Two'))),
      ]);
      expect(codes.filter((code) => code === undefined)).toHaveLength(1);
      expect([
        await empty.store.models.users.count(),
        await empty.store.models.studios.count(),
        await empty.people.isEmpty(),
      ]).toEqual([1, 1, false]);
      const [{ id, name }] = (await empty.store.models.studios.findAll({ raw: true })) as unknown as {
        id: string;
        name: string;
      }[];
      expect(name).toMatch(/^(Lamp House|Other)$/);
      expect((await empty.people.members(id)).map(({ role }) => role)).toEqual(['owner']);
    } finally {
      await empty.close();
    }
  });
});
