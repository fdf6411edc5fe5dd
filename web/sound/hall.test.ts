import { afterAll, beforeAll, beforeEach, describe, expect, it, vi } from 'vitest';
import type { HallResponse } from '#core/dsp/index.ts';
import { HARBOUR_HALL, hallResponse, recordedResponse, SAIL_LOFT } from '#core/rooms/index.ts';

import { usePerformance } from './performance-state.ts';

/** The template's hall, from its settings to what the engine is given; the worker runs in this thread. */

const told = vi.hoisted(() => ({ halls: [] as { response: unknown; key: string }[], hallKey: '' }));
vi.mock('./host.ts', () => ({
  soundHost: {
    get hall() {
      return told.halls.at(-1)?.response;
    },
    get hallKey() {
      return told.hallKey;
    },
    setHall: (response: unknown, key: string) => {
      told.halls.push({ response, key });
      told.hallKey = key;
    },
  },
}));

const server = vi.hoisted(() => ({
  halls: [] as object[],
  bytes: new ArrayBuffer(0),
  asked: 0,
  toasts: [] as string[],
}));
vi.mock('../state/api-client.ts', () => ({
  request: () => {
    server.asked++;
    return Promise.resolve(server.halls);
  },
  fetchBytes: () => Promise.resolve(server.bytes),
}));
vi.mock('sonner', () => ({ toast: { error: (text: string) => server.toasts.push(text) } }));

type Handler = (event: { data: unknown }) => void;
const scope: { onmessage?: Handler; postMessage(message: unknown): void } = { postMessage: () => undefined };
let breaks = false;
class WorkerHere {
  onmessage: Handler | undefined;
  onerror: (() => void) | undefined;
  private isOver = false;
  postMessage(data: unknown): void {
    queueMicrotask(() => {
      if (this.isOver) return;
      if (breaks) {
        this.onerror?.();
        return;
      }
      scope.postMessage = (message: unknown) => this.onmessage?.({ data: message });
      handler({ data });
    });
  }
  terminate(): void {
    this.isOver = true;
  }
}
let handler: Handler;
let page: typeof import('./hall.ts');
beforeAll(async () => {
  vi.stubGlobal('self', scope);
  vi.stubGlobal('Worker', WorkerHere);
  await import('./hall.worker.ts');
  handler = scope.onmessage as Handler;
  page = await import('./hall.ts');
});
afterAll(() => vi.unstubAllGlobals());
beforeEach(() => (breaks = false));

const template = (more: object = {}) =>
  ({
    id: 't',
    name: 'House',
    hall: 'harbour',
    hallSize: 1,
    hallDecaySeconds: 0.5,
    hallDamping: 0.5,
    hallPreDelayMs: 0,
    hallLowCutHz: 20,
    hallHighCutHz: 20_000,
    ...more,
  }) as never;
const given = () => told.halls.at(-1)?.response as HallResponse;

describe('the hall of a template', () => {
  it('is worked out as its settings say, at once when it is the first', async () => {
    page.followHall(undefined);
    page.followHall(template());
    expect(usePerformance.getState().hallIsComing).toBe(true);
    const hall = await page.wantedHall();
    expect(usePerformance.getState().hallIsComing).toBe(false);
    expect(told.halls).toHaveLength(1);
    expect(hall.left).toEqual(hallResponse(HARBOUR_HALL, { decaySeconds: 0.5 }).left);
  });
  it('is not worked out again while nothing of it changes', async () => {
    page.followHall(template({ name: 'Renamed', hallEarlyDb: -9 }));
    await new Promise((resolve) => setTimeout(resolve, 200));
    expect(told.halls).toHaveLength(1);
  });
  it('follows a ruler with its last place only, and who waits gets that one', async () => {
    for (const hallPreDelayMs of [10, 20, 30]) page.followHall(template({ hallPreDelayMs }));
    const hall = await page.wantedHall();
    expect(told.halls).toHaveLength(2);
    expect(hall.earlyFrames).toBe(hallResponse(HARBOUR_HALL).earlyFrames + 1440);
  });
  it('is another hall where another is chosen; one that is not known is the first', async () => {
    page.followHall(template({ hall: 'loft' }));
    expect((await page.wantedHall()).left).toEqual(hallResponse(SAIL_LOFT, { decaySeconds: 0.5 }).left);
  });
  it('is one of the studio’s own, fetched once however its settings move', async () => {
    const channel = Float32Array.from({ length: 4800 }, (_, i) => (i % 7) * 10 ** (-i / 2400));
    server.halls = [{ id: 'own', name: 'Ours', channels: 2, frames: 2400, decaySeconds: 0.15, remarks: [] }];
    server.bytes = channel.slice().buffer;
    page.followHall(template({ hall: 'own', hallDecaySeconds: 0.2 }));
    const hall = await page.wantedHall();
    const recorded = { channels: [channel.slice(0, 2400), channel.slice(2400)], decaySeconds: 0.15 };
    const settings = {
      size: 1,
      decaySeconds: 0.2,
      damping: 0.5,
      preDelayMs: 0,
      lowCutHz: 20,
      highCutHz: 20_000,
    };
    expect(hall).toEqual(recordedResponse(recorded, settings));
    page.followHall(template({ hall: 'own', hallDecaySeconds: 0.3 }));
    expect((await page.wantedHall()).left).not.toEqual(hall.left);
    expect(server.asked).toBe(1);
  });
  it('says so where it was taken away, and sounds on as before', async () => {
    const before = given();
    page.followHall(template({ hall: 'gone' }));
    expect(await page.wantedHall()).toBe(before);
    expect(server.toasts.at(-1)).toContain('was taken away');
    expect(usePerformance.getState().hallIsComing).toBe(false);
  });
  it('stays as it was when it cannot be worked out, and nobody waits for ever', async () => {
    const before = given();
    breaks = true;
    page.followHall(template({ hallSize: 0.7 }));
    expect(await page.wantedHall()).toBe(before);
    expect(await page.wantedHall()).toBe(before);
    expect(usePerformance.getState().hallIsComing).toBe(false);
    breaks = false;
    page.followHall(template({ hallSize: 0.7 }));
    expect(await page.wantedHall()).not.toBe(before);
  });
});
