import { ENGINE_RATE } from '#core/units/index.ts';
import workletUrl from './engine.worklet.ts?worker&url';
import type { FromEngine, ToEngine } from './messages.ts';

/** A context that counts no frames for so many looks, a second apart, has lost its device. */
const LOST_LOOKS = 3;
const LOOK_MS = 1000;
/** Begun anew more often than this within a minute, it is left. */
const MOST_REVIVALS = 4;

/**
 * The browser's audio thread with the engine in it. It sleeps until something is to be heard. When the browser pauses it, it is woken by
 * whatever is pressed next; when it breaks, or its device goes, it is made anew.
 */
export class AudioThread {
  private context: AudioContext | undefined;
  private node: AudioWorkletNode | undefined;
  private starting: Promise<void> | undefined;
  private revivals: number[] = [];
  private lastTime = -1;
  private still = 0;
  private watching = false;

  /**
   * @param options what the engine is made with, each time
   * @param started told when there is an engine, which knows nothing yet; `again` when there was one before
   * @param hear takes what the engine tells
   * @param troubled takes a sentence on why nothing is heard
   */
  constructor(
    private readonly options: () => object,
    private readonly started: (again: boolean) => void,
    private readonly hear: (message: FromEngine) => void,
    private readonly troubled: (sentence: string) => void,
  ) {}

  get isThere(): boolean {
    return this.node !== undefined;
  }

  /** Seconds of sound that the browser has taken so far. */
  get playedSeconds(): number {
    return this.context?.currentTime ?? 0;
  }

  /**
   * What is heard at a time of the page's clock, by the context's own, seconds: the browser tells which frame leaves the machine when,
   * so that the way through buffers and device is counted in. Undefined while nothing sounds.
   */
  heardSeconds(atMs: number): number | undefined {
    const { context } = this;
    if (!context) return undefined;
    const { contextTime = 0, performanceTime = 0 } = context.getOutputTimestamp();
    // Some browsers tell nothing yet when asked at first.
    return performanceTime > 0
      ? contextTime + (atMs - performanceTime) / 1000
      : context.currentTime - (context.outputLatency || 0) + (atMs - performance.now()) / 1000;
  }

  /** Wakes it; must follow a press of the user's. @throws Error when the browser gives no sound */
  async wake(): Promise<void> {
    this.starting ??= this.start(false);
    await this.starting;
    if (this.context && this.context.state !== 'running') await this.context.resume();
  }

  /** Tells the engine, if there is one: what lasts is told anew to every engine. */
  send(message: ToEngine): void {
    this.node?.port.postMessage(message);
  }

  private async start(again: boolean): Promise<void> {
    try {
      const context = new AudioContext({ sampleRate: ENGINE_RATE, latencyHint: 'interactive' });
      this.context = context;
      await context.audioWorklet.addModule(workletUrl);
      const node = new AudioWorkletNode(context, 'farlo-engine', {
        numberOfInputs: 0,
        outputChannelCount: [2],
        processorOptions: this.options(),
      });
      node.connect(context.destination);
      node.onprocessorerror = () => this.revive();
      context.onstatechange = () => this.followState();
      // Not in every browser yet: the device has gone, or takes no more.
      context.addEventListener('error', () => this.revive());
      node.port.onmessage = ({ data }: MessageEvent<FromEngine>) => this.hear(data);
      this.node = node;
      this.watch();
      this.started(again);
    } catch (error) {
      this.starting = undefined;
      this.troubled(
        `The browser gives no sound (${(error as Error).message}). Check its sound settings and press again.`,
      );
      throw error;
    }
  }

  /** Makes context and engine anew. */
  private revive(): void {
    const now = Date.now();
    this.revivals = [...this.revivals.filter((at) => now - at < 60_000), now];
    const { context, node } = this;
    if (node) node.onprocessorerror = node.port.onmessage = null;
    if (context) context.onstatechange = null;
    this.node = undefined;
    void context?.close().catch(() => undefined);
    if (this.revivals.length > MOST_REVIVALS) {
      this.starting = undefined;
      this.troubled('The sound keeps breaking off. Check the output of this machine, then press Play again.');
      return;
    }
    this.starting = this.start(true);
    this.starting.catch(() => undefined);
  }

  private followState(): void {
    const state = this.context?.state;
    if (state === 'closed') this.revive();
    else if (state !== 'running') {
      this.troubled('The browser has paused the sound. Press any key to go on.');
      this.resume();
    }
  }

  private readonly resume = (): void => {
    const { context } = this;
    if (context && context.state !== 'running' && context.state !== 'closed')
      void context.resume().catch(() => undefined);
  };

  /** Sees to it that sound comes back after a pause, and after the loss of its device. */
  private watch(): void {
    if (this.watching) return;
    this.watching = true;
    for (const press of ['pointerdown', 'keydown'] as const)
      window.addEventListener(press, this.resume, { capture: true });
    document.addEventListener('visibilitychange', this.resume);
    setInterval(() => {
      const { context } = this;
      const moves = context?.state !== 'running' || context.currentTime !== this.lastTime;
      this.lastTime = context?.currentTime ?? -1;
      this.still = moves ? 0 : this.still + 1;
      if (this.still < LOST_LOOKS) return;
      this.still = 0;
      this.revive();
    }, LOOK_MS);
  }
}
