import connectSessionSequelize from 'connect-session-sequelize';
import session from 'express-session';
import type { Request, RequestHandler } from 'express';
import type { Config } from '../config.ts';
import type { Store } from '../store/database.ts';

declare module 'express-session' {
  interface SessionData {
    userId?: string;
    /** Studio that is worked in. */
    studioId?: string;
    guard?: string;
    /** When it began, in milliseconds. */
    startedAt?: number;
  }
}

/** A session ends after this long without a request; an open page asks all the time. */
export const IDLE_MS = 30 * 60_000;
/** However busy, a person signs in again after this long (OWASP ASVS 4.0, 3.3.2, level 2). */
export const LONGEST_MS = 12 * 3_600_000;
/** How exactly the end of an idle session is kept; a write with every request would be too dear. */
const TOUCH_MS = 60_000;

/** Sessions in the database, each known with its person, so that a person's others can be ended. */
export interface Sessions {
  handler: RequestHandler;
  stop(): void;
}

/** Makes the session handler. @param now milliseconds; given by tests */
export function sessionsIn(store: Store, config: Config, now: () => number = Date.now): Sessions {
  const SessionStore = connectSessionSequelize(session.Store);
  const touched = new Map<string, number>();
  class FreshSessions extends SessionStore {
    // The package reads a session however old; it only sweeps now and then.
    override get = (sid: string, done: (error: unknown, data?: session.SessionData | null) => void): void => {
      store.models.sessions
        .findByPk(sid, { raw: true })
        .then((row) => {
          const known = row as unknown as { data: string; expires: Date } | null;
          const data =
            known && new Date(known.expires).getTime() > now()
              ? (JSON.parse(known.data) as session.SessionData)
              : null;
          const over = data !== null && now() - (data.startedAt ?? 0) > LONGEST_MS;
          done(null, over ? null : data);
        })
        .catch((error: unknown) => done(error));
    };
    override touch = (sid: string, _data: session.SessionData, done?: (error?: unknown) => void): void => {
      if (now() - (touched.get(sid) ?? 0) < TOUCH_MS) {
        done?.();
        return;
      }
      if (touched.size > 5000) touched.clear();
      touched.set(sid, now());
      store.models.sessions
        .update({ expires: new Date(now() + IDLE_MS) }, { where: { sid } })
        .then(() => done?.())
        .catch(() => done?.());
    };
  }
  const sessions = new FreshSessions({
    db: store.sequelize,
    table: 'sessions',
    extendDefaultFields: (defaults: object, data: session.SessionData) => ({
      ...defaults,
      userId: data.userId ?? null,
    }),
  } as never);
  return {
    handler: session({
      // The prefix makes browsers insist on a secure cookie of this host alone.
      name: config.secure ? '__Host-farlo' : 'farlo',
      secret: config.sessionSecret,
      store: sessions,
      resave: false,
      saveUninitialized: false,
      rolling: true,
      cookie: { httpOnly: true, sameSite: 'strict', secure: config.secure, path: '/', maxAge: IDLE_MS },
    }),
    stop: () => sessions.stopExpiringSessions(),
  };
}

/** Makes the caller's session anew for a user: an id that was fixed before signing in is worth nothing. */
export async function beginSession(request: Request, userId: string, studioId?: string): Promise<void> {
  await new Promise<void>((resolve, reject) =>
    request.session.regenerate((error) => (error ? reject(error as Error) : resolve())),
  );
  Object.assign(request.session, { userId, studioId, startedAt: Date.now() });
}
