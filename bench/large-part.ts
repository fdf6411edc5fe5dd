// Makes a cue whose first part holds many notes, in pieces as the page sends them. Prints the cue's id and the milliseconds of the slowest piece.
// usage: node --import tsx bench/large-part.ts BASE NOTES
import { randomUUID } from 'node:crypto';
import { MOST_CHANGES, type DocumentContent, type StudioOverview } from '#api/index.ts';
import { Client } from './client.ts';

const [base, count] = process.argv.slice(2);
const client = new Client(base);
await client.signIn('ilse@saltglass.example', 'lantern-and-tide');
const { templates } = await client.call<StudioOverview>('GET', '/studio');
const { records } = await client.call<DocumentContent>('GET', `/documents/template/${templates[0].id}`);
const { id } = await client.call<{ id: string }>('POST', '/documents', {
  kind: 'cue',
  name: `Bench, ${count} notes`,
  templateId: templates[0].id,
});
const path = `/documents/cue/${id}/patches`;
const partId = randomUUID();
const trackId = [...(records.track ?? [])].sort((a, b) => Number(a.place) - Number(b.place))[0].id;
await client.call('POST', path, {
  id: randomUUID(),
  label: 'Part',
  changes: [{ kind: 'part', id: partId, op: 'add', fields: { trackId } }],
});
const notes = Array.from({ length: Number(count) }, (_, i) => ({
  kind: 'note',
  id: randomUUID(),
  op: 'add',
  fields: {
    partId,
    startTick: i * 120,
    endTick: i * 120 + 110,
    key: 55 + ((i * 7) % 30),
    velocity: 40 + (i % 80),
  },
}));
let slowest = 0;
const start = performance.now();
for (let i = 0; i < notes.length; i += MOST_CHANGES) {
  const before = performance.now();
  await client.call('POST', path, {
    id: randomUUID(),
    label: 'Notes',
    changes: notes.slice(i, i + MOST_CHANGES),
  });
  slowest = Math.max(slowest, performance.now() - before);
}
console.log(JSON.stringify({ id, slowest, all: performance.now() - start }));
