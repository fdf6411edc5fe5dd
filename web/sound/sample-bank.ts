import { frameBytes, type SampleInfo } from '#core/catalogue/index.ts';
import type { SampleAudio, SoundMemory } from '#core/engine/index.ts';
import { FarloError } from '#core/errors/index.ts';
import { fetchPieces } from '../state/api-client.ts';

/** Samples begin at multiples of this, so that 32-bit views fit. */
const ALIGN = 8;
/** Requests under way at once. On one machine several large ones get in each other's way (measured: a quarter of the speed). */
const AT_ONCE = 2;
/** Bytes nobody asked for that are read along rather than asking twice. */
const SMALL_GAP = 65_536;
/** Most bytes of one request, so that what is needed soonest is not stuck behind what is not. */
const LARGEST_READ = 16 * 2 ** 20;

/** Samples that share a place in memory have no more bytes together, unless one alone has. */
const LARGEST_BLOCK = 2 * 2 ** 20;

/** Samples of one pack that were wanted together, in one place of the sound's memory, filled heads first. */
interface Block {
  address: number;
  bytes: number;
  /** Requests under way that write into it. */
  filling: number;
  places: { sample: SampleInfo; offset: number }[];
}

interface Read {
  pack: string;
  start: number;
  end: number;
  fills: { sample: SampleInfo; from: number; length: number; block: Block; to: number }[];
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
  private readonly line = new Line(AT_ONCE);
  /** Blocks nobody wants any more, whose place something may still read from. */
  private readonly leaving = new Set<Block>();
  private holds = 0;
  private known: SoundMemory | undefined;

  /**
   * @param memoryOf where everything lies; asked for when something is first loaded
   * @param forget tells whoever plays that samples are gone; what it returns is done when nothing reads them any more
   * @param freed told when memory has become free
   */
  constructor(
    private readonly memoryOf: () => SoundMemory,
    private readonly forget: (ids: readonly string[]) => Promise<void> = () => Promise.resolve(),
    private readonly freed: () => void = () => undefined,
  ) {}

  private get sound(): SoundMemory {
    this.known ??= this.memoryOf();
    return this.known;
  }

  /** Bytes really held. */
  get bytes(): number {
    let sum = 0;
    for (const block of this.blocks) sum += block.bytes;
    for (const block of this.leaving) sum += block.bytes;
    return sum;
  }

  /** Keeps everything where it is until the answer is called, whatever is released meanwhile: a worker reads it. */
  hold(): () => void {
    this.holds++;
    let held = true;
    return () => {
      if (!held) return;
      held = false;
      this.holds--;
      for (const block of this.leaving) void this.giveBack(block);
    };
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
      if (!block.places.some(({ sample }) => kept.has(sample.id))) sum += block.bytes;
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
   * Claims samples under names and loads what is not here, all claims together: all heads, then the rest.
   * @param told how many bytes of what was missing have arrived
   * @param urgent somebody waits to hear them: they come before everything else, in the order given
   * @returns when all of them are here whole
   * @throws RequestFailure; the claims stay, and claiming again tries again
   * @throws FarloError `sound.memory` when not all of them fit; those that do are here
   */
  async claim(claims: ReadonlyMap<string, readonly SampleInfo[]>, told: Told, urgent = false): Promise<void> {
    const wanted = new Map<string, SampleInfo>();
    const owners = new Map<string, string>();
    for (const [name, samples] of claims) {
      this.claims.set(name, new Set(samples.map((sample) => sample.id)));
      for (const sample of samples) {
        wanted.set(sample.id, sample);
        if (!owners.has(sample.id)) owners.set(sample.id, name);
      }
    }
    const fresh = [...wanted.values()].filter((sample) => !this.blockOf.has(sample.id));
    const waits = new Set([...wanted.keys()].flatMap((id) => this.arriving.get(id) ?? []));
    if (fresh.length > 0) {
      const work = this.load(fresh, owners, told, urgent);
      for (const sample of fresh) this.arriving.set(sample.id, work);
      try {
        await work;
      } catch (error) {
        if (!isRefusal(error)) this.drop(fresh);
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
    this.letUnclaimedGo();
  }

  /** Claims no more under a name than some of its samples; what is not here of them is not loaded. */
  narrow(name: string, samples: readonly SampleInfo[]): void {
    if (!this.claims.has(name)) return;
    this.claims.set(name, new Set(samples.map(({ id }) => id)));
    this.letUnclaimedGo();
  }

  private letUnclaimedGo(): void {
    const claimed = new Set<string>();
    for (const ids of this.claims.values()) for (const id of ids) claimed.add(id);
    for (const block of this.blocks)
      if (!block.places.some(({ sample }) => claimed.has(sample.id))) this.letGo(block);
  }

  /** Whether everything claimed under a name has its place here. */
  isPlaced(name: string): boolean {
    return [...(this.claims.get(name) ?? [])].every((id) => this.blockOf.has(id));
  }

  private drop(samples: readonly SampleInfo[]): void {
    for (const { id } of samples) {
      const block = this.blockOf.get(id);
      if (block) this.letGo(block);
    }
  }

  private letGo(block: Block): void {
    this.blocks.delete(block);
    for (const { sample } of block.places) {
      this.blockOf.delete(sample.id);
      this.audio.delete(sample.id);
    }
    this.leaving.add(block);
    void this.giveBack(block);
  }

  /** Gives a block's place back once nothing reads from it. */
  private async giveBack(block: Block): Promise<void> {
    await this.forget(block.places.map(({ sample }) => sample.id));
    if (this.holds > 0 || block.filling > 0 || !this.leaving.delete(block)) return;
    this.sound.release(block.address);
    this.freed();
  }

  private async load(
    samples: readonly SampleInfo[],
    owners: ReadonlyMap<string, string>,
    told: Told,
    urgent: boolean,
  ): Promise<void> {
    // What one claim brings can go with it, whatever lies beside it in the pack.
    let refused = 0;
    const placed = new Map<string, SampleInfo[]>();
    for (const [pack, list] of grouped(samples, (sample) => sample.pack))
      for (const own of grouped(list, (sample) => owners.get(sample.id) ?? '').values())
        for (const some of inBlocks(own))
          try {
            this.makeBlock(some);
            placed.set(pack, [...(placed.get(pack) ?? []), ...some]);
          } catch (error) {
            if (!isRefusal(error)) throw error;
            refused += this.missingBytes(some);
          }
    let loaded = 0;
    const readAll = (part: 'head' | 'tail', rank: number) =>
      Promise.all(
        batchesOf(this.reads(placed, part, urgent)).map((batch) =>
          this.line.run(rank, async () => {
            await this.fill(batch);
            const fills = batch.flatMap((read) => read.fills);
            if (part === 'head') for (const { sample } of fills) this.show(sample);
            loaded += fills.reduce((sum, one) => sum + one.length, 0);
            told(loaded);
          }),
        ),
      );
    const rank = urgent ? 0 : 2;
    // Rests follow as soon as beginnings leave them a turn.
    await Promise.all([readAll('head', rank), readAll('tail', rank + 1)]);
    if (refused > 0)
      throw new FarloError(
        'sound.memory',
        `${Math.ceil(refused / 1e6)} MB of it do not fit into the memory this machine gives. What fits is here; unload what you do not need, and load again.`,
      );
  }

  private makeBlock(samples: readonly SampleInfo[]): void {
    let size = 0;
    const places = samples.map((sample) => {
      const offset = size;
      size += Math.ceil((sample.frames * frameBytes(sample)) / ALIGN) * ALIGN;
      return { sample, offset };
    });
    const block: Block = { address: this.sound.allocateClear(size), bytes: size, filling: 0, places };
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
    const address = block.address + place.offset;
    const { buffer } = this.sound.memory;
    const data =
      sample.format === 'i16'
        ? new Int16Array(buffer, address, count)
        : new Float32Array(buffer, address, count);
    this.audio.set(sample.id, { data, channels, frames, rate, address });
  }

  /** Requests for heads or tails, neighbours in a pack joined. */
  private reads(
    byPack: ReadonlyMap<string, readonly SampleInfo[]>,
    part: 'head' | 'tail',
    urgent: boolean,
  ): Read[] {
    const reads: Read[] = [];
    for (const [pack, samples] of byPack) {
      const places = samples.flatMap((sample) => {
        const block = this.blockOf.get(sample.id);
        const own = block?.places.find((one) => one.sample.id === sample.id);
        if (!block || !own) return [];
        const width = frameBytes(sample);
        const head = sample.headFrames * width;
        return part === 'head'
          ? [{ sample, from: sample.headOffset, length: head, block, to: own.offset }]
          : [
              {
                sample,
                from: sample.tailOffset,
                length: sample.frames * width - head,
                block,
                to: own.offset + head,
              },
            ];
      });
      // Beginnings come as they lie, and so does the rest unless somebody waits for some of it sooner.
      if (part === 'head' || !urgent) places.sort((a, b) => a.from - b.from);
      // Joined only with what follows in the file.
      let open: Read | undefined;
      for (const place of places) {
        if (place.length === 0 && part === 'tail') continue;
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

  /** Fetches a batch and puts every piece where it belongs as it comes: each byte is copied once. */
  private async fill(batch: readonly Read[]): Promise<void> {
    const blocks = new Set(batch.flatMap(({ fills }) => fills.map(({ block }) => block)));
    for (const block of blocks) block.filling++;
    try {
      const places = placesOf(batch);
      let next = 0;
      await fetchPieces(
        batch.map(({ pack, start, end }) => ({ pack, start, end })),
        (bytes, at) => {
          // Taken anew: the memory may have grown since.
          const all = new Uint8Array(this.sound.memory.buffer);
          while (next < places.length && places[next].from < at + bytes.length) {
            const { from, to, address } = places[next];
            const first = Math.max(from, at);
            const last = Math.min(to, at + bytes.length);
            if (first < last) all.set(bytes.subarray(first - at, last - at), address + first - from);
            if (to > at + bytes.length) return;
            next++;
          }
        },
      );
    } finally {
      for (const block of blocks) {
        block.filling--;
        if (this.leaving.has(block)) void this.giveBack(block);
      }
    }
  }
}

function grouped<T>(list: readonly T[], keyOf: (item: T) => string): Map<string, T[]> {
  const groups = new Map<string, T[]>();
  for (const item of list) {
    const key = keyOf(item);
    const group = groups.get(key);
    if (group) group.push(item);
    else groups.set(key, [item]);
  }
  return groups;
}

/** Reads put together into requests of a bearable size, in order. */
function batchesOf(reads: readonly Read[]): Read[][] {
  const batches: Read[][] = [];
  let size = 0;
  for (const read of reads) {
    const length = read.end - read.start;
    if (batches.length === 0 || size + length > LARGEST_READ) {
      batches.push([]);
      size = 0;
    }
    batches[batches.length - 1].push(read);
    size += length;
  }
  return batches;
}

/** Samples by the block: no longer ones than must be, so that places of all sizes stay free. */
function inBlocks(samples: readonly SampleInfo[]): SampleInfo[][] {
  const blocks: SampleInfo[][] = [];
  let bytes = Infinity;
  for (const sample of samples) {
    const size = sample.frames * frameBytes(sample);
    if (bytes + size > LARGEST_BLOCK) {
      blocks.push([]);
      bytes = 0;
    }
    blocks[blocks.length - 1].push(sample);
    bytes += size;
  }
  return blocks;
}

/** Where in the bytes of a batch, one read behind the other, its pieces lie, and where they go. */
function placesOf(batch: readonly Read[]): { from: number; to: number; address: number }[] {
  let before = 0;
  return batch.flatMap(({ start, end, fills }) => {
    const first = before - start;
    before += end - start;
    return fills.map(({ from, length, block, to }) => ({
      from: first + from,
      to: first + from + length,
      address: block.address + to,
    }));
  });
}

const isRefusal = (error: unknown) => error instanceof FarloError && error.code === 'sound.memory';

/** Work that waits its turn: a few at once, lower ranks first, and in order within a rank. */
class Line {
  private readonly waiting: { rank: number; start: () => void }[] = [];
  private running = 0;

  constructor(private readonly atOnce: number) {}

  run(rank: number, work: () => Promise<void>): Promise<void> {
    return new Promise((resolve, reject) => {
      const start = () => {
        this.running++;
        work()
          .then(resolve, reject)
          .finally(() => {
            this.running--;
            this.next();
          });
      };
      const after = this.waiting.findIndex((one) => one.rank > rank);
      this.waiting.splice(after < 0 ? this.waiting.length : after, 0, { rank, start });
      this.next();
    });
  }

  private next(): void {
    if (this.running < this.atOnce) this.waiting.shift()?.start();
  }
}
