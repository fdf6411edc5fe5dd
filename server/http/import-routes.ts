import type { Request } from 'express';
import { TakeInShape, type ImportProposal, type WordShape } from '#api/index.ts';
import { FarloError } from '#core/errors/index.ts';
import type { FoundWord } from '#core/formats/index.ts';
import { wordKey, type Meaning } from '#core/intake/index.ts';
import type { ImportOrder } from '../jobs/import.worker.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import type { ScanOrder } from '../jobs/scan.worker.ts';
import { openSource } from '../jobs/source-of.ts';
import { hearSample } from '../samples/hear-sample.ts';
import { removeUnusedPacks } from '../samples/unused-packs.ts';
import type { ImportFacts } from '../samples/take-in.ts';
import type { CheckedPacks } from '../samples/checked-packs.ts';
import type { Catalogue, NewLibrary } from '../store/catalogue.ts';
import type { RememberedMakers } from '../store/makers.ts';
import type { Route } from './access.ts';
import { nameOf } from './upload-name.ts';
import { sentPath, type Uploads } from './uploads.ts';
import { validBody } from './validate.ts';

/** Bringing sounds in: files are sent and looked at, the user says what they are, then they are taken in. */
export function importRoutes(
  catalogue: Catalogue,
  jobs: JobQueue,
  uploads: Uploads,
  makers: RememberedMakers,
  packs: CheckedPacks,
  dataFolder: string,
): Route[] {
  const studioOf = (request: Request) => Promise.resolve(uploads.get(String(request.params.id))?.studioId);
  return [
    {
      method: 'post',
      path: '/imports',
      access: 'editor',
      before: [uploads.receive],
      handle: async (request, response, member) => {
        const pending = uploads.add(request, member.studioId);
        if (!pending) {
          uploads.dropRequest(request);
          throw new FarloError(
            'import.no-instrument',
            'No files arrived. Choose a folder, a zip, or the files themselves.',
          );
        }
        const files = request.files as Express.Multer.File[];
        const order: ScanOrder = {
          from: pending.from,
          id: pending.id,
          name: nameOf(files.map((file) => sentPath(file.originalname))),
          remembered: await makers.words(member.studioId),
          names: await makers.names(member.studioId),
        };
        const job = jobs.add<ImportProposal>({
          kind: 'scan',
          title: `Looking through ${order.name}`,
          studioId: member.studioId,
          worker: new URL('../jobs/scan.worker.ts', import.meta.url),
          data: order,
          finish: (proposal) => {
            pending.proposal = proposal;
            return Promise.resolve(pending.id);
          },
          ended: (state) => {
            if (state !== 'done') uploads.drop(pending.id);
          },
        });
        response.status(202).json(job);
      },
    },
    {
      method: 'get',
      path: '/imports/:id',
      access: 'editor',
      studioOf,
      handle: (request, response) => {
        const proposal = uploads.get(String(request.params.id))?.proposal;
        if (!proposal) throw new FarloError('not-found', 'These files are not looked through yet.');
        response.json(proposal);
      },
    },
    {
      method: 'get',
      path: '/imports/:id/hear',
      access: 'editor',
      studioOf,
      handle: async (request, response) => {
        const pending = uploads.get(String(request.params.id));
        if (!pending?.proposal)
          throw new FarloError('not-found', 'These files are no longer here. Choose them again.');
        const source = await openSource(pending.from);
        try {
          const wav = await hearSample(source, String(request.query.sample ?? ''));
          response.type('audio/wav').set('cache-control', 'private, max-age=600').send(Buffer.from(wav));
        } finally {
          await source.close();
        }
      },
    },
    {
      method: 'post',
      path: '/imports/:id/take-in',
      access: 'editor',
      studioOf,
      handle: async (request, response, member) => {
        const body = await validBody(TakeInShape, request.body);
        const pending = uploads.get(String(request.params.id));
        if (!pending?.proposal)
          throw new FarloError('not-found', 'These files are no longer here. Choose them again.');
        if (!body.replaces) await catalogue.requireFree(member.studioId, body.library);
        const decided = decidedWords(pending.proposal, body.words);
        const facts: ImportFacts = {
          library: body.library,
          maker: body.maker,
          room: body.room,
          recipe: 'import',
          facts: {
            players: body.players,
            roomSound: body.roomSound,
            edition: body.edition,
            price: body.price ?? null,
            text: body.text,
          },
          instruments: Object.fromEntries(body.instruments.map(({ name, ...said }) => [name, said])),
          meanings: decided.all,
          pattern: body.pattern,
          middleC: body.middleC,
          recording: body.recording,
          joins: body.joins,
        };
        const order: ImportOrder = {
          from: pending.from,
          facts,
          dataFolder,
          known: await catalogue.sampleIds(),
        };
        const job = jobs.add<NewLibrary>({
          kind: 'import',
          title: `Taking in ${facts.library}`,
          studioId: member.studioId,
          worker: new URL('../jobs/import.worker.ts', import.meta.url),
          data: order,
          finish: async (library) => {
            const id = await catalogue.save(member.studioId, library, body.replaces ?? false);
            packs.trust(library.packsWritten);
            await makers.keep(
              member.studioId,
              facts.maker,
              decided.kept,
              body.pattern === undefined ? undefined : { pattern: body.pattern, middleC: body.middleC ?? 4 },
            );
            return id;
          },
          // A failed import may be tried again with another mapping.
          ended: (state) => {
            if (state !== 'failed') uploads.drop(pending.id);
            if (state !== 'done') void removeUnusedPacks(catalogue, jobs, dataFolder).catch(console.error);
          },
        });
        response.status(202).json(job);
      },
    },
    {
      method: 'delete',
      path: '/imports/:id',
      access: 'editor',
      studioOf,
      handle: (request, response) => {
        uploads.drop(String(request.params.id));
        response.status(204).end();
      },
    },
  ];
}

/** The user's words as meanings; those that differ from a fresh guess are worth remembering. */
function decidedWords(
  proposal: ImportProposal,
  shapes: readonly WordShape[],
): { all: (FoundWord & Meaning)[]; kept: Map<string, Meaning> } {
  const guessed = new Map(proposal.words.map((word) => [wordKey(word), word]));
  const kept = new Map<string, Meaning>();
  const all = shapes.map((shape): FoundWord & Meaning => {
    const meaning: Meaning = {
      articulation: shape.articulation ?? null,
      position: shape.position ?? null,
      layer: shape.layer ?? null,
      take: shape.take ?? null,
      instrument: shape.instrument ?? null,
    };
    const guess = guessed.get(wordKey(shape));
    const differs =
      !guess || (Object.keys(meaning) as (keyof Meaning)[]).some((name) => guess[name] !== meaning[name]);
    // Names of instruments belong to one library, not to a maker's habits.
    if (differs) kept.set(wordKey(shape), { ...meaning, instrument: null });
    return { ...meaning, kind: shape.kind, text: shape.text };
  });
  return { all, kept };
}
