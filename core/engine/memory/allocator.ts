/** Places begin at multiples of this, so that vectors of every kind fit. */
export const ALIGN = 16;

/** A stretch of memory: bytes [from, to). */
export interface Stretch {
  from: number;
  to: number;
}

/** How the free room of an allocator lies. */
export interface FreeRoom {
  bytes: number;
  pieces: number;
  /** Size of the largest piece. */
  largest: number;
}

/**
 * Gives out places in stretches of memory and takes them back; knows addresses only. What is freed joins its free neighbours. The
 * smallest piece that fits is taken: recordings come in all sizes, and large pieces stay for large ones.
 */
export class Allocator {
  /** Free pieces in order of address; no two touch. */
  private readonly free: Stretch[] = [];
  private readonly sizes = new Map<number, number>();
  private taken = 0;

  /** Bytes given out. */
  get usedBytes(): number {
    return this.taken;
  }

  /** How what is not given out lies. */
  get freeRoom(): FreeRoom {
    const room = { bytes: 0, pieces: this.free.length, largest: 0 };
    for (const { from, to } of this.free) {
      room.bytes += to - from;
      room.largest = Math.max(room.largest, to - from);
    }
    return room;
  }

  /** Free bytes right before an address. */
  freeBefore(address: number): number {
    const last = this.free.at(-1);
    return last?.to === address ? last.to - last.from : 0;
  }

  /** Adds a stretch that may be given out. */
  add({ from, to }: Stretch): void {
    const first = Math.ceil(from / ALIGN) * ALIGN;
    const last = Math.floor(to / ALIGN) * ALIGN;
    if (last > first) this.join(first, last);
  }

  /** @returns the address of a place, or undefined when no free piece is large enough */
  allocate(bytes: number): number | undefined {
    const size = Math.max(ALIGN, Math.ceil(bytes / ALIGN) * ALIGN);
    let best = -1;
    let least = Infinity;
    for (let i = 0; i < this.free.length; i++) {
      const length = this.free[i].to - this.free[i].from;
      if (length >= size && length < least) [best, least] = [i, length];
    }
    if (best < 0) return undefined;
    const piece = this.free[best];
    const { from } = piece;
    if (least === size) this.free.splice(best, 1);
    else piece.from += size;
    this.sizes.set(from, size);
    this.taken += size;
    return from;
  }

  /** Takes a place back. @throws Error for one that was not given out, or is back already */
  release(address: number): void {
    const size = this.sizes.get(address);
    if (size === undefined) throw new Error(`nothing was given out at ${address}`);
    this.sizes.delete(address);
    this.taken -= size;
    this.join(address, address + size);
  }

  private join(from: number, to: number): void {
    const { free } = this;
    let low = 0;
    let high = free.length;
    while (low < high) {
      const middle = (low + high) >> 1;
      if (free[middle].from < from) low = middle + 1;
      else high = middle;
    }
    const before = low > 0 && free[low - 1].to === from ? free[low - 1] : undefined;
    const after = low < free.length && free[low].from === to ? free[low] : undefined;
    if (before && after) {
      before.to = after.to;
      free.splice(low, 1);
    } else if (before) before.to = to;
    else if (after) after.from = from;
    else free.splice(low, 0, { from, to });
  }
}
