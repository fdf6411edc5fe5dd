// Fifty browsers edit one template for half a minute: how long an edit takes, and whether any is lost or not told.
// usage: node --import tsx bench/sharing.ts BASE
import { randomUUID } from 'node:crypto';
import type { AppliedPatch, DocumentContent, StreamEvent, StudioOverview } from '#api/index.ts';
import { Client } from './client.ts';

const CLIENTS = 50;
const SECONDS = 30;
/** One edit of each about twice a second: quicker than hands that also listen. */
const PAUSE_MS = 500;

const [base] = process.argv.slice(2);
const clients: Client[] = [];
// One after another: a name's sign-ins at once are limited.
for (let i = 0; i < CLIENTS; i++) {
  const client = new Client(base);
  await client.signIn('tomas@saltglass.example', 'ferry-at-nine');
  clients.push(client);
}
const { templates } = await clients[0].call<StudioOverview>('GET', '/studio');
const path = `/documents/template/${templates[0].id}`;
const start = (await clients[0].call<DocumentContent>('GET', path)).revision;
const stop = new AbortController();
// Read after the end: fifty browsers have fifty processors for this, and here it would take the server's time.
const told = clients.map((): string[] => []);
await Promise.all(clients.map((client, i) => client.listen((event) => told[i].push(event), stop.signal)));

function revisionOf(text: string): number | undefined {
  const event = JSON.parse(text) as StreamEvent;
  return event.kind === 'patch' ? event.revision : undefined;
}

const milliseconds: number[] = [];
const acknowledged = new Map<string, number>();
let last = start;
const end = performance.now() + SECONDS * 1000;
await Promise.all(
  clients.map(async (client, i) => {
    const id = randomUUID();
    let version = 0;
    await new Promise((resolve) => setTimeout(resolve, (i / CLIENTS) * PAUSE_MS));
    while (performance.now() < end) {
      const fields = {
        name: `Bench ${i}`,
        family: 'other',
        place: 1000 + i,
        instrumentId: null,
        articulation: 'long',
        mode: 'planned',
        gainDb: -(version % 60),
        pan: 0,
        hallSendDb: -14,
        muted: false,
      };
      const change =
        version === 0
          ? { kind: 'track', id, op: 'add', fields }
          : { kind: 'track', id, op: 'update', version, fields: { gainDb: -(version % 60) } };
      const before = performance.now();
      const applied = await client.call<AppliedPatch>('POST', `${path}/patches`, {
        id: randomUUID(),
        label: 'Bench',
        changes: [change],
      });
      milliseconds.push(performance.now() - before);
      version = applied.changes[0].version;
      acknowledged.set(id, version);
      last = Math.max(last, applied.revision);
      await new Promise((resolve) => setTimeout(resolve, PAUSE_MS * (0.5 + Math.random())));
    }
  }),
);
await new Promise((resolve) => setTimeout(resolve, 1000));
stop.abort();
const { records } = await clients[0].call<DocumentContent>('GET', path);
const there = new Map((records.track ?? []).map((track) => [track.id, track.version]));
const lost = [...acknowledged].filter(([id, version]) => there.get(id) !== version).length;
const untold = told.reduce((sum, events) => {
  const set = new Set(events.map(revisionOf));
  let missing = 0;
  for (let revision = start + 1; revision <= last; revision++) if (!set.has(revision)) missing++;
  return sum + missing;
}, 0);
milliseconds.sort((a, b) => a - b);
// Leaves the template as it was.
for (let i = 0; i < acknowledged.size; i += 25) {
  const some = [...acknowledged].slice(i, i + 25);
  await clients[0].call('POST', `${path}/patches`, {
    id: randomUUID(),
    label: 'Bench ends',
    changes: some.map(([id, version]) => ({ kind: 'track', id, op: 'remove', version })),
  });
}
console.log(
  JSON.stringify({
    edits: milliseconds.length,
    lost,
    untold,
    p50: milliseconds[Math.floor(milliseconds.length * 0.5)],
    p99: milliseconds[Math.floor(milliseconds.length * 0.99)],
  }),
);
process.exit(0);
