import { resolve } from 'node:path';

/** Settings of one server process, read once and frozen. */
export interface Config {
  port: number;
  /** Address the server listens on; its own machine alone unless asked. */
  host: string;
  /** Proxies in front of the server whose word on the caller's address and TLS counts. */
  proxies: number;
  /** Reached over TLS, through a proxy: cookies are for TLS alone. */
  secure: boolean;
  dataFolder: string;
  database: { host: string; port: number; name: string; user: string; password: string };
  sessionSecret: string;
  /** Serve the demo studio and offer its people on the sign-in page. */
  demo: boolean;
  /** Folder of the built pages, or undefined when only the interface for programs is served. */
  webFolder: string | undefined;
  quiet: boolean;
}

const LEAST_SECRET = 24;

function wholeNumber(env: NodeJS.ProcessEnv, name: string, otherwise: number, low = 1, high = 65535): number {
  const text = env[name];
  if (text === undefined || text === '') return otherwise;
  const value = Number(text);
  if (!Number.isInteger(value) || value < low || value > high)
    throw new Error(`${name} must be a whole number between ${low} and ${high}, not “${text}”.`);
  return value;
}

function isOn(env: NodeJS.ProcessEnv, name: string): boolean {
  const text = env[name] ?? '';
  if (!['', 'on', 'off'].includes(text)) throw new Error(`${name} is “on” or “off”, not “${text}”.`);
  return text === 'on';
}

/** True for addresses that only the machine itself reaches. */
export function isLoopback(host: string): boolean {
  return host === 'localhost' || host === '::1' || host.startsWith('127.');
}

/** Reads the environment. @throws Error with a sentence when a setting makes no sense */
export function readConfig(env: NodeJS.ProcessEnv): Config {
  const config: Config = {
    port: wholeNumber(env, 'FARLO_PORT', 4870),
    host: env.FARLO_HOST || '127.0.0.1',
    proxies: wholeNumber(env, 'FARLO_PROXIES', 0, 0, 5),
    secure: isOn(env, 'FARLO_TLS'),
    dataFolder: resolve(env.FARLO_DATA || './.farlo'),
    database: {
      host: '127.0.0.1',
      port: wholeNumber(env, 'FARLO_DB_PORT', 4871),
      name: env.FARLO_DB_NAME || 'farlo',
      user: 'farlo',
      password: env.FARLO_DB_PASSWORD ?? '',
    },
    sessionSecret: env.FARLO_SESSION_SECRET ?? '',
    demo: env.FARLO_DEMO !== 'off',
    webFolder: env.FARLO_WEB,
    quiet: env.FARLO_QUIET === 'on',
  };
  if (config.sessionSecret.length < LEAST_SECRET)
    throw new Error(
      `FARLO_SESSION_SECRET must have at least ${LEAST_SECRET} characters; the start command makes one.`,
    );
  if (config.secure && config.proxies === 0)
    throw new Error('FARLO_TLS is on, so a proxy must stand before Farlo: set FARLO_PROXIES to 1.');
  if (config.demo && !isLoopback(config.host))
    throw new Error(
      'The demo’s passwords are known to everybody, so it is served to this machine alone. Set FARLO_DEMO=off to use FARLO_HOST.',
    );
  return Object.freeze(config);
}
