import { randomUUID } from 'node:crypto';
import { Worker } from 'node:worker_threads';
import type { JobInfo } from '#api/index.ts';
import { describeError, FarloError, type ErrorCode, type Place } from '#core/errors/index.ts';

/** What a worker tells while it works. */
export type WorkerMessage<Result> =
  | { kind: 'progress'; share: number; message: string }
  | { kind: 'part'; result: Result }
  | { kind: 'done'; result: Result }
  | { kind: 'failed'; code: ErrorCode; message: string; place: Place };

/** Long work to be queued. `finish` runs in the server with the worker's result; its value says what came of it. */
export interface JobOrder<Result> {
  kind: JobInfo['kind'];
  title: string;
  studioId: string;
  /** Entry of the worker and what it is given. */
  worker: URL;
  data: unknown;
  finish(result: Result): Promise<string | undefined>;
  /** Runs for every part that the worker hands over before its end, one after the other. */
  part?(result: Result): Promise<void>;
  /** Always called at the end, for example to remove an upload. */
  cleanUp?(): void;
  /** Told how it ended. */
  ended?(state: JobInfo['state'], message: string): void;
}

/** Where long work is queued; another carrier can stand in its place. */
export interface JobQueue {
  add<Result>(order: JobOrder<Result>): JobInfo;
  get(id: string): { info: JobInfo; studioId: string } | undefined;
  list(studioId: string): JobInfo[];
  cancel(id: string): void;
  /** Takes a job that has ended off the list. */
  dismiss(id: string): void;
  /** Whether work of these kinds waits or runs, of whatever studio. */
  isBusyWith(kinds: readonly JobInfo['kind'][]): boolean;
  /** Ends everything that runs. */
  close(): Promise<void>;
}

interface Entry {
  info: JobInfo;
  order: JobOrder<unknown>;
  worker?: Worker;
}

const KEPT = 50;
const isGoingOn = ({ state }: JobInfo) => state === 'waiting' || state === 'running';
const DISK_SENTENCES: Record<string, string> = {
  ENOSPC: 'The disk of the server is full. Nothing was kept; free some space, then try again.',
  EROFS: 'The server may not write into its data folder. Nothing was kept.',
};

/** Queue over worker threads of this process. */
export class ThreadQueue implements JobQueue {
  private readonly entries = new Map<string, Entry>();
  /** Jobs running now, by studio: each studio has a lane of its own, so that none waits for another's. */
  private readonly running = new Map<string, number>();

  /** @param threads how many jobs of one studio run at once */
  constructor(private readonly threads: number) {}

  add<Result>(order: JobOrder<Result>): JobInfo {
    const info: JobInfo = {
      id: randomUUID(),
      kind: order.kind,
      title: order.title,
      state: 'waiting',
      progress: 0,
      message: 'Waiting',
      parts: 0,
    };
    this.entries.set(info.id, { info, order: order as JobOrder<unknown> });
    this.forget(order.studioId);
    this.next();
    return info;
  }

  get(id: string) {
    const entry = this.entries.get(id);
    return entry && { info: entry.info, studioId: entry.order.studioId };
  }

  list(studioId: string): JobInfo[] {
    return [...this.entries.values()]
      .filter((entry) => entry.order.studioId === studioId)
      .map((entry) => entry.info);
  }

  cancel(id: string): void {
    const entry = this.entries.get(id);
    if (!entry || !isGoingOn(entry.info)) return;
    entry.info.state = 'cancelled';
    entry.info.message = 'Cancelled; nothing was kept.';
    if (entry.worker) void entry.worker.terminate();
    else {
      entry.order.cleanUp?.();
      entry.order.ended?.(entry.info.state, entry.info.message);
    }
  }

  dismiss(id: string): void {
    const entry = this.entries.get(id);
    if (entry && !isGoingOn(entry.info)) this.entries.delete(id);
  }

  isBusyWith(kinds: readonly JobInfo['kind'][]): boolean {
    return [...this.entries.values()].some(({ info }) => kinds.includes(info.kind) && isGoingOn(info));
  }

  async close(): Promise<void> {
    for (const { info } of this.entries.values()) if (isGoingOn(info)) info.state = 'cancelled';
    await Promise.all([...this.entries.values()].map((entry) => entry.worker?.terminate()));
  }

  /** Keeps the list of ended jobs of a studio short. */
  private forget(studioId: string): void {
    const ended = [...this.entries.values()].filter(
      ({ info, order }) => order.studioId === studioId && !isGoingOn(info),
    );
    for (const { info } of ended.slice(0, -KEPT)) this.entries.delete(info.id);
  }

  private next(): void {
    for (const entry of this.entries.values()) {
      const { studioId } = entry.order;
      const busy = this.running.get(studioId) ?? 0;
      if (entry.info.state !== 'waiting' || busy >= this.threads) continue;
      this.running.set(studioId, busy + 1);
      void this.run(entry).finally(() => {
        this.running.set(studioId, (this.running.get(studioId) ?? 1) - 1);
        entry.worker = undefined;
        entry.order.cleanUp?.();
        entry.order.ended?.(entry.info.state, entry.info.message);
        this.next();
      });
    }
  }

  private async run(entry: Entry): Promise<void> {
    const { info, order } = entry;
    info.state = 'running';
    try {
      const result = await this.work(entry);
      // From here on it can no longer be cancelled: the result is written in one transaction.
      if (!this.isRunning(info)) return;
      info.resultId = await order.finish(result);
      info.state = 'done';
      info.progress = 1;
      info.message = 'Done';
    } catch (error) {
      if (!this.isRunning(info)) return;
      info.state = 'failed';
      info.message =
        error instanceof FarloError
          ? describeError(error)
          : (DISK_SENTENCES[(error as { code?: string }).code ?? ''] ??
            'This failed in an unexpected way. Try again; the log has more.');
      if (!(error instanceof FarloError)) console.error(error);
    }
  }

  private isRunning(info: JobInfo): boolean {
    return info.state === 'running';
  }

  private work(entry: Entry): Promise<unknown> {
    const { info, order } = entry;
    let parts = Promise.resolve();
    let told = false;
    return new Promise((resolve, reject) => {
      const worker = new Worker(new URL('./boot.mjs', import.meta.url), {
        workerData: { entry: order.worker.href, order: order.data },
        execArgv: [],
        resourceLimits: { maxOldGenerationSizeMb: 6144 },
      });
      entry.worker = worker;
      worker.on('message', (message: WorkerMessage<unknown>) => {
        if (message.kind === 'progress') {
          info.progress = message.share;
          info.message = message.message;
        } else if (message.kind === 'part') {
          parts = parts.then(async () => {
            await order.part?.(message.result);
            info.parts++;
          });
          parts.catch(reject);
        } else if (message.kind === 'done') {
          told = true;
          parts.then(() => resolve(message.result), reject);
        } else reject(new FarloError(message.code, message.message, message.place));
      });
      worker.on('error', reject);
      // Its last parts may still be on their way into the database when the thread has ended.
      worker.on('exit', (code) => {
        if (!told) reject(new Error(`The worker ended with code ${code}.`));
      });
    });
  }
}
