import { FarloError } from '../../errors/index.ts';
import { ALIGN, Allocator, type FreeRoom, type Stretch } from './allocator.ts';
import { webAssembly, type WebAssemblyMemory } from './web-assembly.ts';

const PAGE = 65_536;
/** It grows by at least this, so that small wishes do not grow it each. */
const STEP = 2 ** 20;
/** Largest sizes that are tried, in pages: not every machine has addresses for the first. */
const MAXIMA = [65_536, 32_768, 16_384] as const;
/** Addresses from 0 on that are never given out, so that 0 can mean “nowhere”. */
const UNUSED = 1024;

/**
 * The memory in which all sound lies: recordings, and the room in which engines work. It is shared by the threads of a page; one of
 * them, the owner, makes it grow and gives room away, the others work in the room they were given.
 */
export class SoundMemory {
  private readonly allocator = new Allocator();
  private readonly copies = new WeakMap<object, number>();
  /** What lies from here on was never given out, and is 0 as the machine gave it. */
  private untouched = Infinity;
  private readonly owned = new WeakMap<object, number[]>();
  private readonly gone = new FinalizationRegistry<number>((address) => this.release(address));

  private constructor(
    readonly memory: WebAssemblyMemory,
    private readonly grows: boolean,
  ) {}

  /** A memory of its own. @throws FarloError `sound.memory` when the machine has no addresses for it */
  static create(): SoundMemory {
    for (const maximum of MAXIMA)
      try {
        const memory = new webAssembly.Memory({ initial: STEP / PAGE, maximum, shared: true });
        const sound = new SoundMemory(memory, true);
        sound.allocator.add({ from: UNUSED, to: memory.buffer.byteLength });
        sound.untouched = 0;
        return sound;
      } catch (error) {
        if (!(error instanceof RangeError)) throw error;
      }
    throw new FarloError('sound.memory', 'This machine has no memory left for sound.');
  }

  /** Room in the memory of another thread. */
  static within(memory: WebAssemblyMemory, room: Stretch): SoundMemory {
    const sound = new SoundMemory(memory, false);
    sound.allocator.add(room);
    return sound;
  }

  /** Bytes the machine holds for it. */
  get heldBytes(): number {
    return this.memory.buffer.byteLength;
  }

  /** Bytes given out. */
  get usedBytes(): number {
    return this.allocator.usedBytes;
  }

  /** How what is held and not given out lies. */
  get freeRoom(): FreeRoom {
    return this.allocator.freeRoom;
  }

  /** More room in the memory of another thread. */
  add(room: Stretch): void {
    this.allocator.add(room);
  }

  /**
   * A place for so many bytes; what lies there is left over from before.
   * @throws FarloError `sound.memory` when there is none and the machine refuses more
   */
  allocate(bytes: number): number {
    const address = this.placeFor(bytes);
    this.untouched = Math.max(this.untouched, address + bytes);
    return address;
  }

  /** A place filled with zeros. */
  allocateClear(bytes: number): number {
    const { untouched } = this;
    const address = this.allocate(bytes);
    const used = Math.min(bytes, untouched - address);
    if (used > 0) new Uint8Array(this.memory.buffer, address, used).fill(0);
    return address;
  }

  private placeFor(bytes: number): number {
    const address = this.allocator.allocate(bytes);
    if (address !== undefined) return address;
    this.grow(bytes);
    const grown = this.allocator.allocate(bytes);
    if (grown === undefined) throw refused(bytes);
    return grown;
  }

  release(address: number): void {
    this.allocator.release(address);
  }

  /** Places that are given back when their owner is gone. */
  roomOf(owner: object): (bytes: number) => number {
    return (bytes) => {
      const address = this.allocateClear(bytes);
      this.gone.register(owner, address, owner);
      const all = this.owned.get(owner);
      if (all) all.push(address);
      else this.owned.set(owner, [address]);
      return address;
    };
  }

  /** Gives back what an owner has got by `roomOf`, before it is gone. */
  giveBack(owner: object): void {
    this.gone.unregister(owner);
    for (const address of this.owned.get(owner) ?? []) this.release(address);
    this.owned.delete(owner);
  }

  /** Where a copy of an array lies: made once, given back when the array is gone. */
  placeOf(data: Int16Array | Float32Array): number {
    const known = this.copies.get(data);
    if (known !== undefined) return known;
    const address = this.allocate(data.byteLength);
    new Uint8Array(this.memory.buffer).set(
      new Uint8Array(data.buffer, data.byteOffset, data.byteLength),
      address,
    );
    this.copies.set(data, address);
    this.gone.register(data, address);
    return address;
  }

  /** A view of floats, which holds as long as the place does. */
  floats(address: number, count: number): Float32Array {
    return new Float32Array(this.memory.buffer, address, count);
  }

  doubles(address: number, count: number): Float64Array {
    return new Float64Array(this.memory.buffer, address, count);
  }

  private grow(bytes: number): void {
    if (!this.grows) throw refused(bytes);
    const from = this.memory.buffer.byteLength;
    // What is free at its end is a part of the new place.
    const missing = bytes + ALIGN - this.allocator.freeBefore(from);
    const pages = Math.ceil(Math.max(STEP, missing) / PAGE);
    try {
      this.memory.grow(pages);
    } catch {
      throw refused(bytes);
    }
    this.allocator.add({ from, to: this.memory.buffer.byteLength });
  }
}

function refused(bytes: number): FarloError {
  return new FarloError(
    'sound.memory',
    `This machine gives no more memory for sound (${Math.ceil(bytes / 1e6)} MB were asked for). Unload what you do not need.`,
  );
}

let own: SoundMemory | undefined;

/** The memory of this thread, made when first asked for. */
export function ownSoundMemory(): SoundMemory {
  own ??= SoundMemory.create();
  return own;
}
