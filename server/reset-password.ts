import { randomInt } from 'node:crypto';
import 'reflect-metadata';
import { readConfig } from './config.ts';
import { openStore } from './store/database.ts';
import { People } from './store/people.ts';

/** Letters and figures that are not taken for one another when they are read off a screen. */
const SIGNS = 'abcdefghjkmnpqrstuvwxyz23456789';
const GROUPS = 4;
const GROUP_LENGTH = 5;

/** A password of four groups, about 99 bits. */
function freshPassword(): string {
  const group = () => Array.from({ length: GROUP_LENGTH }, () => SIGNS[randomInt(SIGNS.length)]).join('');
  return Array.from({ length: GROUPS }, group).join('-');
}

const address = process.argv[2] ?? '';
const store = await openStore(readConfig(process.env).database);
const people = new People(store);
const password = freshPassword();
const userId = await people.resetPassword(address, password);
if (userId !== undefined) {
  await people.endSessions(userId);
  console.log(`  New password of ${address}: ${password}`);
  console.log('  All their sessions have ended. They should choose another under “People and account”.');
} else {
  console.error(`  Nobody here has the address ${address}.`);
  process.exitCode = 1;
}
await store.close();
