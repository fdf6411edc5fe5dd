import type { SessionInfo } from '#api/index.ts';

/** Talks to a server as one browser does: a cookie, a guard, and one stream. */
export class Client {
  private cookie = '';
  private guard = 'none';
  constructor(private readonly base: string) {}

  /** @throws Error with the server's answer when it is a refusal */
  async call<T>(method: 'GET' | 'POST', path: string, body?: unknown): Promise<T> {
    const response = await fetch(`${this.base}/api${path}`, {
      method,
      headers: { cookie: this.cookie, 'x-farlo-guard': this.guard, 'content-type': 'application/json' },
      body: body === undefined ? undefined : JSON.stringify(body),
    });
    const [set] = response.headers.getSetCookie();
    if (set) this.cookie = set.split(';')[0];
    if (!response.ok) throw new Error(`${method} ${path}: ${response.status} ${await response.text()}`);
    return (await response.json()) as T;
  }

  async signIn(email: string, password: string): Promise<void> {
    this.guard = (await this.call<SessionInfo>('POST', '/session', { email, password })).guard;
  }

  /** Hears the studio's events until it is aborted. @param onEvent is given an event as it travelled, JSON unread */
  async listen(onEvent: (event: string) => void, signal: AbortSignal): Promise<void> {
    const response = await fetch(`${this.base}/api/events`, { headers: { cookie: this.cookie }, signal });
    let text = '';
    const read = async () => {
      for await (const chunk of response.body?.pipeThrough(new TextDecoderStream()) ?? []) {
        text += chunk;
        const parts = text.split('\n\n');
        text = parts.pop() ?? '';
        for (const part of parts) if (part.startsWith('data: ')) onEvent(part.slice(6));
      }
    };
    read().catch(() => undefined);
  }
}
