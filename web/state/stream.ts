import type { StreamEvent } from '#api/index.ts';

/** What tabs of a browser tell each other beside what the server says. */
type TabMessage =
  | { from: 'server'; event: StreamEvent }
  /** A new tab asks who is here. */
  | { from: 'tab'; ask: 'here' }
  /** Somebody signed in or out, or chose another studio: every tab looks anew. */
  | { from: 'tab'; ask: 'session' };

interface StreamListeners {
  onEvent(event: StreamEvent): void;
  /** The session is no longer what it was. */
  onSession(): void;
}

const RETRY_MS = 2000;
/** Three beats of the server. */
const SILENT_MS = 65_000;

/**
 * One connection for all documents and all tabs: the tab that holds the lock listens to the server and tells the
 * others. When it goes, the next one listens, and the first event says where every document stands.
 */
export class SharedStream {
  private readonly channel = 'BroadcastChannel' in globalThis ? new BroadcastChannel('farlo') : undefined;
  private source: EventSource | undefined;
  private silence: ReturnType<typeof setTimeout> | undefined;
  private lastHere: StreamEvent | undefined;
  private leading = false;

  constructor(private readonly listeners: StreamListeners) {
    if (this.channel)
      this.channel.onmessage = ({ data }: MessageEvent<TabMessage>) => {
        if (data.from === 'server') this.listeners.onEvent(data.event);
        else if (data.ask === 'session') this.listeners.onSession();
        else if (this.leading && this.lastHere) this.tell({ from: 'server', event: this.lastHere });
      };
    if (this.channel && 'locks' in navigator) {
      this.tell({ from: 'tab', ask: 'here' });
      void navigator.locks.request('farlo-stream', () => {
        this.lead();
        return new Promise(() => undefined);
      });
    } else this.lead();
  }

  /** Listens anew, for example after signing in again. */
  reopen(): void {
    if (this.leading) this.open();
  }

  /** Lets the other tabs look at the session anew. */
  tellSession(): void {
    this.tell({ from: 'tab', ask: 'session' });
  }

  private lead(): void {
    this.leading = true;
    this.open();
  }

  private open(): void {
    this.source?.close();
    const source = new EventSource('/api/events');
    this.source = source;
    this.expect();
    source.onmessage = ({ data }) => {
      this.expect();
      const event = JSON.parse(String(data)) as StreamEvent;
      if (event.kind === 'beat') return;
      if (event.kind === 'hello' || event.kind === 'here') this.lastHere = { kind: 'here', here: event.here };
      this.listeners.onEvent(event);
      this.tell({ from: 'server', event });
    };
    source.onerror = () => {
      // An answer other than a stream ends it for good: the session is over, or a proxy stands in for the server.
      if (source.readyState === EventSource.CLOSED && source === this.source) {
        this.listeners.onSession();
        setTimeout(() => source === this.source && this.open(), RETRY_MS);
      }
    };
  }

  /** A connection can die without a word; the server beats so that it is noticed. */
  private expect(): void {
    clearTimeout(this.silence);
    this.silence = setTimeout(() => this.open(), SILENT_MS);
  }

  private tell(message: TabMessage): void {
    this.channel?.postMessage(message);
  }
}
