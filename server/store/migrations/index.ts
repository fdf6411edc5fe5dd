import type { QueryInterface } from 'sequelize';
import { firstTables } from './2026-11-25-first-tables.ts';
import { footing } from './2026-11-27-footing.ts';
import { balance } from './2026-11-29-balance.ts';
import { house } from './2026-11-28-house.ts';
import { listen } from './2026-11-26-listen.ts';
import { seating } from './2026-11-30-seating.ts';
import { stems } from './2026-12-01-stems.ts';
import { makers } from './2026-12-03-makers.ts';
import { hallSends } from './2026-12-04-hall-sends.ts';
import { writing } from './2026-12-05-writing.ts';
import { signatures } from './2026-12-06-signatures.ts';
import { rests } from './2026-12-02-rests.ts';
import { shelf } from './2026-11-26-shelf.ts';

/** Every change of the tables, oldest first. A name, once landed, never changes. */
export const migrations: { name: string; up: (query: QueryInterface) => Promise<void> }[] = [
  { name: '2026-11-25-first-tables', up: firstTables },
  { name: '2026-11-26-shelf', up: shelf },
  { name: '2026-11-26-listen', up: listen },
  { name: '2026-11-27-footing', up: footing },
  { name: '2026-11-28-house', up: house },
  { name: '2026-11-29-balance', up: balance },
  { name: '2026-11-30-seating', up: seating },
  { name: '2026-12-01-stems', up: stems },
  { name: '2026-12-02-rests', up: rests },
  { name: '2026-12-03-makers', up: makers },
  { name: '2026-12-04-hall-sends', up: hallSends },
  { name: '2026-12-05-writing', up: writing },
  { name: '2026-12-06-signatures', up: signatures },
];
