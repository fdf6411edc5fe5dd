import type { Instrument, PackInfo, SampleInfo } from '#core/catalogue/index.ts';
import { frameBytes } from '#core/catalogue/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import { fetchBytes, request } from '../state/api-client.ts';

/** Samples begin at multiples of this, so that 32-bit views fit. */
const ALIGN = 8;
const AT_ONCE = 3;

/** One pack in memory: shared with the audio thread and workers, filled heads first. */
class LoadedPack {
  readonly memory: SharedArrayBuffer;
  private readonly places: { sample: SampleInfo; offset: number }[] = [];

  constructor(
    readonly info: PackInfo,
    samples: readonly SampleInfo[],
  ) {
    let offset = 0;
    for (const sample of samples) {
      this.places.push({ sample, offset });
      offset += Math.ceil((sample.frames * frameBytes(sample)) / ALIGN) * ALIGN;
    }
    this.memory = new SharedArrayBuffer(offset);
  }

  audio(): [string, SampleAudio][] {
    return this.places.map(({ sample, offset }) => {
      const { channels, frames, rate } = sample;
      const count = frames * channels;
      const data =
        sample.format === 'i16'
          ? new Int16Array(this.memory, offset, count)
          : new Float32Array(this.memory, offset, count);
      return [sample.id, { data, channels, frames, rate }];
    });
  }

  /** Puts bytes [start, …) of the pack's file where they belong. */
  fill(bytes: Uint8Array, start: number, part: 'head' | 'tail'): void {
    const memory = new Uint8Array(this.memory);
    for (const { sample, offset } of this.places) {
      const width = frameBytes(sample);
      const head = sample.headFrames * width;
      const [from, length, to] =
        part === 'head'
          ? [sample.headOffset, head, offset]
          : [sample.tailOffset, sample.frames * width - head, offset + head];
      memory.set(bytes.subarray(from - start, from - start + length), to);
    }
  }
}

/** How far an instrument's audio has come. */
export interface LoadState {
  instrument: Instrument;
  audio: ReadonlyMap<string, SampleAudio>;
  /** Bytes really held. */
  bytes: number;
  totalBytes: number;
  loadedBytes: number;
  /** True when every wanted recording is here whole. */
  complete: boolean;
  error?: string;
}

/** Loads one instrument by packs, heads first, and reports at each step. */
export class InstrumentLoader {
  private readonly packs = new Map<string, LoadedPack>();
  private audio = new Map<string, SampleAudio>();
  private loadedBytes = 0;
  private readonly abort = new AbortController();

  private constructor(
    readonly instrument: Instrument,
    private readonly report: (state: LoadState) => void,
  ) {}

  /** Asks for the instrument's description. @throws RequestFailure */
  static async open(id: string, report: (state: LoadState) => void): Promise<InstrumentLoader> {
    return new InstrumentLoader(await request<Instrument>('GET', `/instruments/${id}`), report);
  }

  close(): void {
    this.abort.abort();
  }

  /**
   * Loads all packs, those of the articulations named first before the others.
   * @param first articulation ids that are needed soonest
   */
  async load(first: ReadonlySet<string>): Promise<void> {
    const rank = (pack: PackInfo) => (first.has(pack.articulation) ? 0 : 1);
    const order = Object.values(this.instrument.packs).sort((a, b) => rank(a) - rank(b));
    const bySample = new Map<string, SampleInfo[]>();
    for (const sample of Object.values(this.instrument.samples))
      bySample.set(sample.pack, [...(bySample.get(sample.pack) ?? []), sample]);
    try {
      await eachOf(order, async (info) => {
        const pack = new LoadedPack(info, bySample.get(info.id) ?? []);
        pack.fill(await fetchBytes(`/packs/${info.id}`, 0, info.headBytes, this.abort.signal), 0, 'head');
        this.packs.set(info.id, pack);
        this.audio = new Map([...this.audio, ...pack.audio()]);
        this.loadedBytes += info.headBytes;
        this.tell(false);
      });
      await eachOf(order, async (info) => {
        const bytes = await fetchBytes(`/packs/${info.id}`, info.headBytes, info.bytes, this.abort.signal);
        this.packs.get(info.id)?.fill(bytes, info.headBytes, 'tail');
        this.loadedBytes += info.bytes - info.headBytes;
        this.tell(false);
      });
      this.audio = new Map(this.audio);
      this.tell(true);
    } catch (error) {
      if (!this.abort.signal.aborted) this.tell(false, (error as Error).message);
    }
  }

  private tell(complete: boolean, error?: string): void {
    const held = [...this.packs.values()].reduce((sum, pack) => sum + pack.memory.byteLength, 0);
    const totalBytes = Object.values(this.instrument.packs).reduce((sum, pack) => sum + pack.bytes, 0);
    this.report({
      instrument: this.instrument,
      audio: this.audio,
      bytes: held,
      totalBytes,
      loadedBytes: this.loadedBytes,
      complete,
      error,
    });
  }
}

/** Runs over a list with a few at once, in order of their place. */
async function eachOf<T>(list: readonly T[], work: (item: T) => Promise<void>): Promise<void> {
  let next = 0;
  const lane = async () => {
    while (next < list.length) await work(list[next++]);
  };
  await Promise.all(Array.from({ length: AT_ONCE }, lane));
}
