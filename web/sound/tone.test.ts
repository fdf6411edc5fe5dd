import { afterAll, beforeAll, describe, expect, it, vi } from 'vitest';
import { figuresOfPassage } from '#core/listen/index.ts';

/** Figures of passages, asked of a worker; it runs in this thread. */

type Handler = (event: { data: unknown }) => void;
const scope: { onmessage?: Handler; postMessage(message: unknown): void } = { postMessage: () => undefined };
let handler: Handler;
let made = 0;
let breaks = false;
/** What waits to be worked out, so that answers can come in another order than they were asked for. */
const held: (() => void)[] = [];
class WorkerHere {
  onmessage: Handler | undefined;
  onerror: ((event: { message: string }) => void) | undefined;
  constructor() {
    made++;
  }
  postMessage(data: unknown): void {
    held.push(() => {
      if (breaks) return this.onerror?.({ message: 'out of memory' });
      scope.postMessage = (message: unknown) => this.onmessage?.({ data: message });
      handler({ data });
    });
  }
  terminate(): void {
    held.length = 0;
  }
}
let toneOf: (typeof import('./tone.ts'))['toneOf'];
beforeAll(async () => {
  vi.stubGlobal('self', scope);
  vi.stubGlobal('Worker', WorkerHere);
  await import('./tone.worker.ts');
  handler = scope.onmessage as Handler;
  ({ toneOf } = await import('./tone.ts'));
});
afterAll(() => vi.unstubAllGlobals());

const sine = (hertz: number) =>
  Float32Array.from({ length: 48_000 }, (_, i) => 0.2 * Math.sin((2 * Math.PI * hertz * i) / 48_000));

describe('the tone of a passage', () => {
  it('is told to whoever asked for it, in whatever order the answers come', async () => {
    const [low, high] = [sine(200), sine(5000)];
    const first = toneOf(low, low);
    const second = toneOf(high, high);
    for (const work of held.splice(0).reverse()) work();
    expect(await first).toEqual(figuresOfPassage(low, low));
    expect(await second).toEqual(figuresOfPassage(high, high));
    expect(made).toBe(1);
  });
  it('is refused in a sentence where it cannot be measured', async () => {
    const asked = toneOf(undefined as never, sine(200));
    for (const work of held.splice(0)) work();
    await expect(asked).rejects.toThrow(/\w/);
  });
  it('is asked of another worker after one has broken, and nobody waits for ever', async () => {
    breaks = true;
    const [one, other] = [toneOf(sine(200), sine(200)), toneOf(sine(300), sine(300))];
    held.splice(0)[0]();
    await expect(one).rejects.toThrow('out of memory');
    await expect(other).rejects.toThrow('out of memory');
    breaks = false;
    const again = toneOf(sine(200), sine(200));
    for (const work of held.splice(0)) work();
    expect(await again).toEqual(figuresOfPassage(sine(200), sine(200)));
    expect(made).toBe(2);
  });
});
