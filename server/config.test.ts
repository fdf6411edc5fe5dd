import { join, resolve } from 'node:path';
import { describe, expect, it } from 'vitest';
import { isLoopback, readConfig } from './config.ts';

const SECRET = { FARLO_SESSION_SECRET: 'x'.repeat(24) };
const read = (env: Record<string, string>) => readConfig({ ...SECRET, ...env });
const refusal = (env: Record<string, string>) => {
  try {
    read(env);
    return undefined;
  } catch (error) {
    return (error as Error).message;
  }
};

describe('settings', () => {
  it('of none are those of a machine by itself', () => {
    expect(read({})).toEqual({
      port: 4870,
      host: '127.0.0.1',
      proxies: 0,
      secure: false,
      dataFolder: resolve('.farlo'),
      database: { host: '127.0.0.1', port: 4871, name: 'farlo', user: 'farlo', password: '' },
      sessionSecret: SECRET.FARLO_SESSION_SECRET,
      demo: true,
      webFolder: undefined,
      quiet: false,
    });
    expect(Object.isFrozen(read({}))).toBe(true);
  });
  it('are taken from the environment', () => {
    const config = read({
      FARLO_PORT: '80',
      FARLO_HOST: '0.0.0.0',
      FARLO_PROXIES: '2',
      FARLO_TLS: 'on',
      FARLO_DATA: '/srv/farlo',
      FARLO_DB_PORT: '3307',
      FARLO_DB_NAME: 'other',
      FARLO_DB_PASSWORD: 'p',
      FARLO_DEMO: 'off',
      FARLO_WEB: '/web',
      FARLO_QUIET: 'on',
    });
    expect(config).toMatchObject({
      port: 80,
      host: '0.0.0.0',
      proxies: 2,
      secure: true,
      dataFolder: join('/srv/farlo'),
      demo: false,
      webFolder: '/web',
      quiet: true,
      database: { port: 3307, name: 'other', password: 'p' },
    });
  });
  it.each<[Record<string, string>, string]>([
    [{ FARLO_PORT: '0' }, 'FARLO_PORT must be a whole number between 1 and 65535, not “0”.'],
    [{ FARLO_PORT: '65536' }, 'FARLO_PORT must be a whole number'],
    [{ FARLO_PORT: '80.5' }, 'FARLO_PORT must be a whole number'],
    [{ FARLO_DB_PORT: 'x' }, 'FARLO_DB_PORT must be a whole number'],
    [{ FARLO_PROXIES: '6' }, 'FARLO_PROXIES must be a whole number between 0 and 5'],
    [{ FARLO_TLS: 'yes' }, 'FARLO_TLS is “on” or “off”, not “yes”.'],
    [{ FARLO_TLS: 'on' }, 'FARLO_TLS is on, so a proxy must stand before Farlo'],
    [{ FARLO_SESSION_SECRET: 'x'.repeat(23) }, 'at least 24 characters'],
    [{ FARLO_HOST: '0.0.0.0' }, 'Set FARLO_DEMO=off to use FARLO_HOST.'],
  ])('%j are refused in words', (env, sentence) => {
    expect(refusal(env)).toContain(sentence);
  });
  it('that are empty count as not set', () => {
    expect(
      read({ FARLO_PORT: '', FARLO_HOST: '', FARLO_DATA: '', FARLO_TLS: '', FARLO_DB_NAME: '' }),
    ).toEqual(read({}));
  });
  it('let the demo be served to this machine alone', () => {
    expect(refusal({ FARLO_HOST: '127.0.0.2' })).toBeUndefined();
    expect(refusal({ FARLO_HOST: '192.168.0.4', FARLO_DEMO: 'off' })).toBeUndefined();
    for (const [host, own] of [
      ['localhost', true],
      ['::1', true],
      ['127.3.2.1', true],
      ['0.0.0.0', false],
      ['::', false],
      ['1127.0.0.1', false],
    ] as const)
      expect(isLoopback(host), host).toBe(own);
  });
});
