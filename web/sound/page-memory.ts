import { SoundMemory, type Stretch, type WebAssemblyMemory } from '#core/engine/index.ts';

/** Room of one engine: its tables, voices and hall. */
const ENGINE_BYTES = 16 * 2 ** 20;

let memory: SoundMemory | undefined;

/**
 * The one memory in which all sound of the page lies: recordings and the rooms of engines. Audio thread and workers read it where it
 * is. @throws Error with a sentence where the browser cannot share memory between threads
 */
export function pageMemory(): SoundMemory {
  const missing = whatIsMissing();
  if (missing) throw new Error(missing);
  memory ??= SoundMemory.create();
  return memory;
}

/** What this browser lacks for sound, as a sentence; undefined when nothing. */
export function whatIsMissing(): string | undefined {
  const rest = 'Everything but sound works all the same.';
  if (typeof WebAssembly === 'undefined' || !WebAssembly.validate(VECTORS))
    return `This browser is too old for the engine: it has no WebAssembly vectors. ${rest}`;
  if (typeof SharedArrayBuffer === 'undefined')
    return `This browser does not share memory between threads here; the page must come from its own server by https or from this machine. ${rest}`;
  return undefined;
}

/** The smallest module with a vector in it: () => i32x4.splat(0). */
const VECTORS = Uint8Array.from([
  0, 97, 115, 109, 1, 0, 0, 0, 1, 5, 1, 96, 0, 1, 123, 3, 2, 1, 0, 10, 8, 1, 6, 0, 65, 0, 253, 17, 11,
]);

/** What another thread needs to work in the page's memory. */
export interface SharedRoom {
  memory: WebAssemblyMemory;
  room: Stretch;
}

/**
 * Room for an engine in another thread.
 * @param bytes beyond what every engine needs; @param own what it needs itself
 * @throws FarloError `sound.memory`
 */
export function shareRoom(bytes = 0, own = ENGINE_BYTES): SharedRoom {
  const sound = pageMemory();
  const size = own + bytes;
  const from = sound.allocate(size);
  return { memory: sound.memory, room: { from, to: from + size } };
}

/** A thread that is ended may go on for a moment; what it works in is not given to others before. */
export const LAST_STEPS_MS = 2000;

/** Takes the room of an engine back that works no longer. */
export function takeRoomBack({ room }: SharedRoom): void {
  pageMemory().release(room.from);
}
