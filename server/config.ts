import { resolve } from 'node:path';

/** Settings of one server process, read once and frozen. */
export interface Config {
  port: number;
  dataFolder: string;
  database: { host: string; port: number; name: string; user: string; password: string };
  sessionSecret: string;
  /** Serve the demo studio and offer its people on the sign-in page. */
  demo: boolean;
  /** Folder of the built pages, or undefined when only the interface for programs is served. */
  webFolder: string | undefined;
  quiet: boolean;
}

function wholeNumber(env: NodeJS.ProcessEnv, name: string, otherwise: number): number {
  const text = env[name];
  if (text === undefined || text === '') return otherwise;
  const value = Number(text);
  if (!Number.isInteger(value) || value < 1 || value > 65535)
    throw new Error(`${name} must be a port between 1 and 65535, not “${text}”.`);
  return value;
}

/** Reads the environment. @throws Error with a sentence when a setting makes no sense */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const dataFolder = resolve(env.FARLO_DATA ?? './.farlo');
  return Object.freeze({
    port: wholeNumber(env, 'FARLO_PORT', 4870),
    dataFolder,
    database: {
      host: '127.0.0.1',
      port: wholeNumber(env, 'FARLO_DB_PORT', 4871),
      name: env.FARLO_DB_NAME ?? 'farlo',
      user: 'farlo',
      password: env.FARLO_DB_PASSWORD ?? '',
    },
    sessionSecret: env.FARLO_SESSION_SECRET ?? '',
    demo: env.FARLO_DEMO !== 'off',
    webFolder: env.FARLO_WEB,
    quiet: env.FARLO_QUIET === 'on',
  });
}
