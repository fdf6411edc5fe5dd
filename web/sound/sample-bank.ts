import { frameBytes, type SampleInfo } from '#core/catalogue/index.ts';
import type { SampleAudio } from '#core/engine/index.ts';
import { fetchBytes } from '../state/api-client.ts';

/** Samples begin at multiples of this, so that 32-bit views fit. */
const ALIGN = 8;
const AT_ONCE = 4;
/** Bytes nobody asked for that are read along rather than asking twice. */
const SMALL_GAP = 65_536;
/** Most bytes of one request, so that what is needed soonest is not stuck behind what is not. */
const LARGEST_READ = 8 * 2 ** 20;

/** Samples of one pack that were wanted together, in one piece of shared memory, filled heads first. */
interface Block {
  memory: SharedArrayBuffer;
  places: { sample: SampleInfo; offset: number }[];
}

interface Read {
  pack: string;
  start: number;
  end: number;
  fills: { from: number; length: number; block: Block; to: number }[];
}

/** Told after every piece that arrives: what of a claim is here, in bytes. */
type Told = (loadedBytes: number) => void;

/**
 * All recordings in memory, each once whatever the number of tracks and instruments that use it. What is wanted is
 * claimed under a name; a block whose samples nobody claims any more is let go.
 */
export class SampleBank {
  private readonly blocks = new Set<Block>();
  private readonly blockOf = new Map<string, Block>();
  private readonly claims = new Map<string, ReadonlySet<string>>();
  private readonly audio = new Map<string, SampleAudio>();
  private readonly arriving = new Map<string, Promise<void>>();

  /** Bytes really held. */
  get bytes(): number {
    let sum = 0;
    for (const block of this.blocks) sum += block.memory.byteLength;
    return sum;
  }

  /** A sample's audio once its beginning is here. */
  get(id: string): SampleAudio | undefined {
    return this.audio.get(id);
  }

  isClaimed(name: string): boolean {
    return this.claims.has(name);
  }

  /** Bytes that letting go of some claims would free. */
  freedBy(names: ReadonlySet<string>): number {
    const kept = new Set<string>();
    for (const [name, ids] of this.claims) if (!names.has(name)) for (const id of ids) kept.add(id);
    let sum = 0;
    for (const block of this.blocks)
      if (!block.places.some(({ sample }) => kept.has(sample.id))) sum += block.memory.byteLength;
    return sum;
  }

  /** Bytes of memory some samples take that are not here yet. */
  missingBytes(samples: readonly SampleInfo[]): number {
    return samples.reduce(
      (sum, sample) =>
        this.blockOf.has(sample.id)
          ? sum
          : sum + Math.ceil((sample.frames * frameBytes(sample)) / ALIGN) * ALIGN,
      0,
    );
  }

  /**
   * Claims samples under a name and loads what is not here: all heads, then the rest, in the order given.
   * @returns when all of them are here whole
   * @throws RequestFailure; the claim stays, and claiming again tries again
   */
  async claim(name: string, samples: readonly SampleInfo[], told: Told): Promise<void> {
    this.claims.set(name, new Set(samples.map((sample) => sample.id)));
    const fresh = samples.filter((sample) => !this.blockOf.has(sample.id));
    const waits = new Set(samples.flatMap((sample) => this.arriving.get(sample.id) ?? []));
    if (fresh.length > 0) {
      const work = this.load(fresh, told);
      for (const sample of fresh) this.arriving.set(sample.id, work);
      try {
        await work;
      } catch (error) {
        this.drop(fresh);
        throw error;
      } finally {
        for (const sample of fresh)
          if (this.arriving.get(sample.id) === work) this.arriving.delete(sample.id);
      }
    }
    await Promise.all(waits);
  }

  /** Gives a claim up; blocks nobody claims any more are let go. */
  release(name: string): void {
    this.claims.delete(name);
    const claimed = new Set<string>();
    for (const ids of this.claims.values()) for (const id of ids) claimed.add(id);
    for (const block of this.blocks)
      if (!block.places.some(({ sample }) => claimed.has(sample.id))) this.forget(block);
  }

  private drop(samples: readonly SampleInfo[]): void {
    for (const { id } of samples) {
      const block = this.blockOf.get(id);
      if (block) this.forget(block);
    }
  }

  private forget(block: Block): void {
    this.blocks.delete(block);
    for (const { sample } of block.places) {
      this.blockOf.delete(sample.id);
      this.audio.delete(sample.id);
    }
  }

  private async load(samples: readonly SampleInfo[], told: Told): Promise<void> {
    const byPack = new Map<string, SampleInfo[]>();
    for (const sample of samples) {
      const list = byPack.get(sample.pack);
      if (list) list.push(sample);
      else byPack.set(sample.pack, [sample]);
    }
    for (const list of byPack.values()) this.makeBlock(list);
    let loaded = 0;
    await eachOf(this.reads(byPack, 'head'), async (read) => {
      await this.fill(read);
      for (const { sample } of read.fills.flatMap((fill) => fill.block.places)) this.show(sample);
      loaded += read.fills.reduce((sum, fill) => sum + fill.length, 0);
      told(loaded);
    });
    await eachOf(this.reads(byPack, 'tail'), async (read) => {
      await this.fill(read);
      loaded += read.fills.reduce((sum, fill) => sum + fill.length, 0);
      told(loaded);
    });
  }

  private makeBlock(samples: readonly SampleInfo[]): void {
    let size = 0;
    const places = samples.map((sample) => {
      const offset = size;
      size += Math.ceil((sample.frames * frameBytes(sample)) / ALIGN) * ALIGN;
      return { sample, offset };
    });
    const block: Block = { memory: new SharedArrayBuffer(size), places };
    this.blocks.add(block);
    for (const { sample } of places) this.blockOf.set(sample.id, block);
  }

  /** Lets a sample be heard: its beginning is here. */
  private show(sample: SampleInfo): void {
    const block = this.blockOf.get(sample.id);
    const place = block?.places.find((one) => one.sample.id === sample.id);
    if (!block || !place || this.audio.has(sample.id)) return;
    const { channels, frames, rate } = sample;
    const count = frames * channels;
    const data =
      sample.format === 'i16'
        ? new Int16Array(block.memory, place.offset, count)
        : new Float32Array(block.memory, place.offset, count);
    this.audio.set(sample.id, { data, channels, frames, rate });
  }

  /** Requests for heads or tails, neighbours in a pack joined. */
  private reads(byPack: ReadonlyMap<string, readonly SampleInfo[]>, part: 'head' | 'tail'): Read[] {
    const reads: Read[] = [];
    for (const [pack, samples] of byPack) {
      const places = samples.flatMap((sample) => {
        const block = this.blockOf.get(sample.id);
        const own = block?.places.find((one) => one.sample.id === sample.id);
        if (!block || !own) return [];
        const width = frameBytes(sample);
        const head = sample.headFrames * width;
        return part === 'head'
          ? [{ from: sample.headOffset, length: head, block, to: own.offset }]
          : [{ from: sample.tailOffset, length: sample.frames * width - head, block, to: own.offset + head }];
      });
      // All beginnings are needed at once, so they come as they lie; the rest comes in the order wanted.
      if (part === 'head') places.sort((a, b) => a.from - b.from);
      // Joined only with what follows in the file.
      let open: Read | undefined;
      for (const place of places) {
        const end = place.from + place.length;
        const joins =
          open &&
          place.from >= open.end &&
          place.from - open.end <= SMALL_GAP &&
          end - open.start <= LARGEST_READ;
        if (open && joins) {
          open.fills.push(place);
          open.end = end;
        } else {
          open = { pack, start: place.from, end, fills: [place] };
          reads.push(open);
        }
      }
    }
    return reads;
  }

  private async fill({ pack, start, end, fills }: Read): Promise<void> {
    const bytes = await fetchBytes(`/packs/${pack}`, start, end);
    for (const { from, length, block, to } of fills)
      new Uint8Array(block.memory).set(bytes.subarray(from - start, from - start + length), to);
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
