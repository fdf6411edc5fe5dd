import compression from 'compression';
import express, { type Express } from 'express';
import helmet from 'helmet';
import { join } from 'node:path';
import type { Logger } from 'pino';
import { FarloError } from '#core/errors/index.ts';
import type { Config } from '../config.ts';
import type { JobQueue } from '../jobs/jobs.ts';
import { CheckedPacks } from '../samples/checked-packs.ts';
import { Catalogue } from '../store/catalogue.ts';
import type { Store } from '../store/database.ts';
import { Documents } from '../store/documents.ts';
import { People } from '../store/people.ts';
import { OwnHalls } from '../store/own-halls.ts';
import { References } from '../store/references.ts';
import { Reports } from '../store/reports.ts';
import { RememberedMakers } from '../store/makers.ts';
import { mountRoutes, type Route } from './access.ts';
import { documentRoutes } from './document-routes.ts';
import { errorHandler } from './errors.ts';
import { importRoutes } from './import-routes.ts';
import { libraryRoutes } from './library-routes.ts';
import { peopleRoutes } from './people-routes.ts';
import { hallRoutes } from './hall-routes.ts';
import { referenceRoutes } from './reference-routes.ts';
import { reportRoutes } from './report-routes.ts';
import { sessionRoutes } from './session-routes.ts';
import { sessionsIn } from './sessions.ts';
import { Streams } from './streams.ts';
import { Uploads } from './uploads.ts';

const YEAR_SECONDS = 31_536_000;

/** The application, apart from listening. */
export interface FarloApp {
  express: Express;
  /** Every route there is, with who may call it. */
  routes: readonly Route[];
  close(): Promise<void>;
}

/** Builds the application over an open store. */
export function buildApp(
  config: Config,
  store: Store,
  jobs: JobQueue,
  log: Logger,
  foundingCode?: string,
): FarloApp {
  const people = new People(store);
  const streams = new Streams();
  const sessions = sessionsIn(store, config);
  const catalogue = new Catalogue(store);
  const packs = new CheckedPacks(config.dataFolder, (id) => catalogue.packFacts(id));
  const uploads = new Uploads(config.dataFolder);
  const routes = [
    ...sessionRoutes(people, streams, { demo: config.demo, foundingCode }),
    ...peopleRoutes(people, streams),
    ...documentRoutes(new Documents(store), people, streams),
    ...libraryRoutes(catalogue, jobs, packs, config.dataFolder),
    ...importRoutes(catalogue, jobs, uploads, new RememberedMakers(store), packs, config.dataFolder),
    ...reportRoutes(catalogue, new Reports(store), jobs, config.dataFolder),
    ...hallRoutes(new OwnHalls(store), jobs, uploads, config.dataFolder),
    ...referenceRoutes(new References(store), jobs, uploads, config.dataFolder),
  ];
  const app = express();
  app.disable('x-powered-by');
  app.set('trust proxy', config.proxies);
  app.use(
    helmet({
      contentSecurityPolicy: {
        directives: {
          scriptSrc: ["'self'", "'wasm-unsafe-eval'"],
          workerSrc: ["'self'", 'blob:'],
          styleSrc: ["'self'", "'unsafe-inline'"],
          // Over plain http asking for https would break every file.
          upgradeInsecureRequests: config.secure ? [] : null,
        },
      },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      strictTransportSecurity: config.secure && { maxAge: YEAR_SECONDS },
    }),
  );
  // Audio is already dense, and its ranges must keep their lengths. Within a router `path` has lost its beginning.
  app.use(
    compression({
      filter: (request, response) =>
        !request.originalUrl.startsWith('/api/packs') &&
        !request.path.endsWith('/events') &&
        !request.path.endsWith('/passage') &&
        compression.filter(request, response),
    }),
  );
  app.get('/api/health', (_request, response) => {
    response.json({ ready: true });
  });
  const api = express.Router();
  api.use(sessions.handler);
  mountRoutes(api, routes, people);
  api.use((_request, _response, next) => next(new FarloError('not-found', 'There is no such address.')));
  app.use('/api', api);
  const { webFolder } = config;
  if (webFolder) {
    app.use('/assets', express.static(join(webFolder, 'assets'), { immutable: true, maxAge: '1y' }));
    app.use(express.static(webFolder));
    app.get('/{*splat}', (_request, response) => response.sendFile(join(webFolder, 'index.html')));
  }
  app.use(errorHandler(log));
  return {
    express: app,
    routes,
    close: async () => {
      streams.close();
      sessions.stop();
      await jobs.close();
    },
  };
}
