import type { Response } from 'express';
import type { Here, StreamEvent } from '#api/index.ts';
import { MOST_TOLD_CHANGES, type AppliedPatch } from '#api/index.ts';

const BEAT_MS = 20_000;
/**
 * Events of this long travel together: with many people at work the writes to all of them would take more of the
 * processor than the edits themselves, and nobody sees so short a wait.
 */
const GATHER_MS = 25;
/** A browser comes again after this long, and its rights are looked at anew. */
const LONGEST_MS = 3_600_000;
/** What may wait for a browser that does not read; more, and it has to come again. */
const MOST_WAITING_BYTES = 8 * 2 ** 20;

interface Listener extends Here {
  studioId: string;
  sessionId: string;
  response: Response;
}

const lineOf = (event: StreamEvent) => `data: ${JSON.stringify(event)}\n\n`;
const BEAT = lineOf({ kind: 'beat' });

/** Tells every browser of a studio what happens, over one stream each for all documents. */
export class Streams {
  /** Listeners with the time they came, in milliseconds. */
  private readonly listeners = new Map<Listener, number>();
  /** What is told to those who have not been said hello to yet; it follows their hello. */
  private readonly early = new Map<Listener, string>();
  /** Events of each studio, as they will travel, that wait to be sent together. */
  private readonly gathered = new Map<string, string>();
  private sending: NodeJS.Timeout | undefined;
  private readonly timer = setInterval(() => this.beat(), BEAT_MS).unref();

  /** Keeps a response open as a stream. @param hello first event, made when everything after it is sure to be told */
  async add(listener: Listener, revisions: () => Promise<Record<string, number>>): Promise<void> {
    const { response, studioId } = listener;
    response.set({
      'Content-Type': 'text/event-stream',
      'Cache-Control': 'no-store',
      'X-Accel-Buffering': 'no',
    });
    response.flushHeaders();
    this.listeners.set(listener, Date.now());
    this.early.set(listener, '');
    response.on('close', () => {
      this.listeners.delete(listener);
      this.early.delete(listener);
      this.tellHere(studioId);
    });
    // Asked for after the listener was added: what is applied meanwhile is told twice rather than never.
    const hello = { kind: 'hello', revisions: await revisions(), here: this.here(studioId) } as const;
    const early = this.early.get(listener) ?? '';
    this.early.delete(listener);
    this.send(listener, lineOf(hello) + early);
    this.tellHere(studioId);
  }

  /** People of a studio who have Farlo open, each once. */
  here(studioId: string): Here[] {
    const people = new Map<string, string>();
    for (const one of this.listeners.keys()) if (one.studioId === studioId) people.set(one.userId, one.name);
    return [...people]
      .map(([userId, name]) => ({ userId, name }))
      .sort((a, b) => a.name.localeCompare(b.name));
  }

  tell(studioId: string, event: StreamEvent): void {
    this.gathered.set(studioId, (this.gathered.get(studioId) ?? '') + lineOf(event));
    this.sending ??= setTimeout(() => this.sendGathered(), GATHER_MS);
  }

  private sendGathered(): void {
    this.sending = undefined;
    for (const listener of this.listeners.keys()) {
      const lines = this.gathered.get(listener.studioId);
      if (lines) this.send(listener, lines);
    }
    this.gathered.clear();
  }

  /** Tells of a patch; of a large one only that it was. */
  tellPatch(studioId: string, documentId: string, patch: AppliedPatch): void {
    const { revision, changes } = patch;
    this.tell(studioId, {
      kind: 'patch',
      documentId,
      revision,
      ...(changes.length <= MOST_TOLD_CHANGES ? { patch } : {}),
    });
  }

  /** Ends the streams of somebody whose rights changed; their browser comes again with the new ones. */
  drop(userId: string): void {
    for (const listener of this.listeners.keys()) if (listener.userId === userId) listener.response.end();
  }

  /** Ends the stream of a session that is over. */
  dropSession(sessionId: string): void {
    for (const listener of this.listeners.keys())
      if (listener.sessionId === sessionId) listener.response.end();
  }

  /** Ends all streams, so that the server can stop. */
  close(): void {
    clearInterval(this.timer);
    clearTimeout(this.sending);
    for (const { response } of this.listeners.keys()) response.end();
  }

  private tellHere(studioId: string): void {
    this.tell(studioId, { kind: 'here', here: this.here(studioId) });
  }

  private beat(): void {
    for (const [listener, since] of this.listeners)
      if (Date.now() - since > LONGEST_MS) listener.response.end();
      else this.send(listener, BEAT);
  }

  private send(listener: Listener, line: string): void {
    const early = this.early.get(listener);
    if (early !== undefined) {
      this.early.set(listener, early + line);
      return;
    }
    const { response } = listener;
    if (response.writableEnded) return;
    response.write(line);
    if (response.writableLength > MOST_WAITING_BYTES) response.destroy();
  }
}
