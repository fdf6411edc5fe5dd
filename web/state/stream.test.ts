import { locks } from '../testing/browser.ts';
import { afterEach, beforeEach, describe, expect, it, vi } from 'vitest';
import type { StreamEvent } from '#api/index.ts';
import { SharedStream } from './stream.ts';

class FakeSource {
  static readonly CLOSED = 2;
  static all: FakeSource[] = [];
  readyState = 1;
  onmessage: ((event: { data: string }) => void) | undefined;
  onerror: (() => void) | undefined;
  constructor(readonly url: string) {
    FakeSource.all.push(this);
  }
  close(): void {
    this.readyState = 2;
  }
  tell(event: StreamEvent): void {
    this.onmessage?.({ data: JSON.stringify(event) });
  }
}
/** Channels of one browser: each tells all others. */
class FakeChannel {
  static all: FakeChannel[] = [];
  onmessage: ((event: { data: unknown }) => void) | undefined;
  constructor() {
    FakeChannel.all.push(this);
  }
  postMessage(data: unknown): void {
    for (const other of FakeChannel.all) if (other !== this) other.onmessage?.({ data });
  }
}
const before = { EventSource: globalThis.EventSource, BroadcastChannel: globalThis.BroadcastChannel };
const settle = async () => {
  for (let i = 0; i < 10; i++) await Promise.resolve();
};
/** The tab whose lock is let go, by order of asking. */
const releases: (() => void)[] = [];
const request = locks.request.bind(locks);

class Tab {
  readonly events: StreamEvent[] = [];
  sessions = 0;
  readonly stream = new SharedStream({
    onEvent: (event) => this.events.push(event),
    onSession: () => this.sessions++,
  });
}
beforeEach(() => {
  vi.useFakeTimers();
  FakeSource.all = [];
  FakeChannel.all = [];
  releases.length = 0;
  Object.assign(globalThis, { EventSource: FakeSource, BroadcastChannel: FakeChannel });
  let last: Promise<unknown> = Promise.resolve();
  locks.request = (name, run) => {
    if (name !== 'farlo-stream') return request(name, run);
    const turn = last;
    let release = () => undefined as void;
    last = new Promise<void>((resolve) => (release = resolve));
    releases.push(release);
    return turn.then(() => void run());
  };
});
afterEach(() => {
  vi.useRealTimers();
  Object.assign(globalThis, before);
  locks.request = request;
});
const hello: StreamEvent = { kind: 'hello', revisions: { a: 1 }, here: [{ userId: 'u', name: 'U' }] };

describe('one stream for all tabs', () => {
  it('is opened by one of them, which tells the others', async () => {
    const [one, two] = [new Tab(), new Tab()];
    await settle();
    expect(FakeSource.all.map(({ url }) => url)).toEqual(['/api/events']);
    FakeSource.all[0].tell(hello);
    FakeSource.all[0].tell({ kind: 'documents' });
    expect([one.events, two.events]).toEqual([
      [hello, { kind: 'documents' }],
      [hello, { kind: 'documents' }],
    ]);
  });
  it('keeps the beats to itself', async () => {
    const [one, two] = [new Tab(), new Tab()];
    await settle();
    FakeSource.all[0].tell({ kind: 'beat' });
    expect([one.events, two.events]).toEqual([[], []]);
  });
  it('is opened by the next when the first goes', async () => {
    const [, two] = [new Tab(), new Tab()];
    await settle();
    releases[0]();
    await settle();
    expect(FakeSource.all).toHaveLength(2);
    FakeSource.all[1].tell(hello);
    expect(two.events).toEqual([hello]);
  });
  it('tells a new tab at once who is here', async () => {
    const first = new Tab();
    await settle();
    FakeSource.all[0].tell(hello);
    FakeSource.all[0].tell({ kind: 'here', here: [] });
    expect(first.events).toHaveLength(2);
    const late = new Tab();
    await settle();
    expect(late.events).toEqual([{ kind: 'here', here: [] }]);
  });
  it('has nothing to tell of before it was told', async () => {
    const tabs = [new Tab()];
    await settle();
    tabs.push(new Tab());
    await settle();
    expect(tabs[1].events).toEqual([]);
  });
  it('is opened anew when it fell silent for three beats', async () => {
    const tab = new Tab();
    await settle();
    vi.advanceTimersByTime(60_000);
    FakeSource.all[0].tell({ kind: 'beat' });
    vi.advanceTimersByTime(60_000);
    expect(FakeSource.all).toHaveLength(1);
    vi.advanceTimersByTime(6000);
    expect(FakeSource.all).toHaveLength(2);
    expect(FakeSource.all[0].readyState).toBe(2);
    FakeSource.all[1].tell(hello);
    expect(tab.events).toEqual([hello]);
  });
  it('that was refused looks at the session and tries again; one that is only cut off comes back by itself', async () => {
    const tab = new Tab();
    await settle();
    FakeSource.all[0].readyState = 0;
    FakeSource.all[0].onerror?.();
    vi.advanceTimersByTime(5000);
    expect([FakeSource.all.length, tab.sessions]).toEqual([1, 0]);
    FakeSource.all[0].readyState = FakeSource.CLOSED;
    FakeSource.all[0].onerror?.();
    expect(tab.sessions).toBe(1);
    vi.advanceTimersByTime(1999);
    expect(FakeSource.all).toHaveLength(1);
    vi.advanceTimersByTime(1);
    expect(FakeSource.all).toHaveLength(2);
  });
  it('is opened anew after signing in, by the tab that has it', async () => {
    const [one, two] = [new Tab(), new Tab()];
    await settle();
    two.stream.reopen();
    expect(FakeSource.all).toHaveLength(1);
    one.stream.reopen();
    expect(FakeSource.all).toHaveLength(2);
    // The old one’s end is of no interest any more.
    FakeSource.all[0].onerror?.();
    vi.advanceTimersByTime(3000);
    expect([FakeSource.all.length, one.sessions]).toEqual([2, 0]);
  });
  it('lets the others look at the session when one signs in or out', async () => {
    const [one, two, three] = [new Tab(), new Tab(), new Tab()];
    await settle();
    one.stream.tellSession();
    expect([one.sessions, two.sessions, three.sessions]).toEqual([0, 1, 1]);
  });
  it('is every tab’s own where the browser has no channels', async () => {
    Object.assign(globalThis, { BroadcastChannel: undefined });
    delete (globalThis as { BroadcastChannel?: unknown }).BroadcastChannel;
    const [one, two] = [new Tab(), new Tab()];
    await settle();
    expect(FakeSource.all).toHaveLength(2);
    FakeSource.all[1].tell(hello);
    expect([one.events, two.events]).toEqual([[], [hello]]);
  });
});
