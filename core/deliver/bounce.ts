import {
  BLOCK,
  Desk,
  Engine,
  FRAME_BYTES,
  kernelIn,
  ownSoundMemory,
  TRACK_VOICES,
  type Kernel,
  type SoundMemory,
} from '../engine/index.ts';
import { ENGINE_RATE } from '../units/index.ts';
import { seat, type BounceOrder } from './order.ts';
import { BounceShare, divide, playedTracks, Stretches, STRETCH_BLOCKS, STRETCH_FRAMES } from './share.ts';

/** What a finished bounce measured of itself. */
export interface BounceFigures {
  frames: number;
  integratedLufs: number;
  truePeakDb: number;
  /** Voices that had to be given up. */
  stolen: number;
}

/** Silence that ends a bounce: below −100 dBFS for a quarter of a second. */
const SILENT = 1e-5;
const SILENT_FRAMES = ENGINE_RATE / 4;
/** A tail longer than this after the last note is cut. */
const LONGEST_TAIL_FRAMES = ENGINE_RATE * 12;
const BLOCK_BYTES = BLOCK * FRAME_BYTES;

/** An engine set up for an order, at frame 0. @param sound the memory it works in */
export function engineFor(order: BounceOrder, sound: SoundMemory = ownSoundMemory()): Engine {
  const engine = new Engine(TRACK_VOICES, sound);
  engine.setHallMix(order.hallMix);
  if (order.hall) engine.setHall(order.hall);
  seat(
    engine,
    order,
    order.tracks.map((_, i) => i),
    sound,
  );
  return engine;
}

/** A stretch of a bounce, channels apart. The arrays are used again for the next. */
export interface MixedStretch {
  left: Float32Array;
  right: Float32Array;
  /** What the hall answered, which is in the mix too. */
  hallLeft: Float32Array;
  hallRight: Float32Array;
}

/** Adds the stretches of all shares in the order of the tracks, as the engine does, and knows when it is over. */
export class BounceMix {
  private readonly desk: Desk;
  private readonly out: MixedStretch = {
    left: new Float32Array(STRETCH_FRAMES),
    right: new Float32Array(STRETCH_FRAMES),
    hallLeft: new Float32Array(STRETCH_FRAMES),
    hallRight: new Float32Array(STRETCH_FRAMES),
  };
  private silent = 0;
  private stretch = 0;

  /** @param sound the memory it works in, the stretches among it */
  constructor(
    private readonly order: BounceOrder,
    private readonly places: Stretches,
    private readonly sound: SoundMemory,
  ) {
    this.desk = new Desk(sound, true);
    this.desk.setHallMix(order.hallMix);
    if (order.hall) this.desk.setHall(order.hall);
    this.desk.reset();
  }

  /** Frames mixed so far. */
  get frames(): number {
    return this.stretch * STRETCH_FRAMES;
  }

  /** Whether the end and the last tail are over. */
  get isOver(): boolean {
    const { endFrame } = this.order;
    return (
      (this.frames >= endFrame && this.silent >= SILENT_FRAMES) ||
      this.frames >= endFrame + LONGEST_TAIL_FRAMES
    );
  }

  /** Share that is done, 0 … 1; the last tail is not counted. */
  get share(): number {
    return Math.min(1, this.frames / this.order.endFrame);
  }

  /** Loudness and peak of what was mixed. @param stolen voices the shares had to give up */
  figures(stolen: number): BounceFigures {
    const { frames } = this;
    const { meter } = this.desk;
    return { frames, integratedLufs: meter.integrated, truePeakDb: meter.truePeakDb, stolen };
  }

  /** Mixes the next stretch; all shares must have rendered it. */
  mix(): MixedStretch {
    const { desk, places, out, stretch } = this;
    const marks = new Uint8Array(this.sound.memory.buffer);
    for (let block = 0; block < STRETCH_BLOCKS; block++) {
      const at = block * BLOCK_BYTES;
      desk.begin();
      for (const track of places.tracks)
        if (marks[places.marks(track, stretch) + block] === 1)
          desk.add(places.sound(track, stretch) + at, places.hall(track, stretch) + at);
      desk.addHall();
      desk.measure();
      const [from, to] = [block * BLOCK, (block + 1) * BLOCK];
      desk.write(out.left.subarray(from, to), out.right.subarray(from, to));
      desk.writeHall(out.hallLeft.subarray(from, to), out.hallRight.subarray(from, to));
    }
    this.silent = isSilent(out.left) && isSilent(out.right) ? this.silent + STRETCH_FRAMES : 0;
    this.stretch++;
    return out;
  }
}

/** Frames of one track's stretch, channels apart. @param left, right overwritten */
export function readStretch(
  places: Stretches,
  sound: SoundMemory,
  track: number,
  stretch: number,
  left: Float32Array,
  right: Float32Array,
): void {
  const frames = sound.floats(places.sound(track, stretch), 2 * STRETCH_FRAMES);
  for (let i = 0; i < STRETCH_FRAMES; i++) {
    left[i] = frames[2 * i];
    right[i] = frames[2 * i + 1];
  }
}

/** Codes stretches of single tracks as they are written into a file. */
export class StretchCoder {
  private readonly kernel: Kernel;
  private readonly room: number;

  /** @param sound the memory in which the stretches lie, and there is room */
  constructor(
    private readonly places: Stretches,
    private readonly sound: SoundMemory,
    private readonly format: 'i24' | 'f32',
  ) {
    this.kernel = kernelIn(sound.memory);
    this.room = sound.roomOf(this)(STRETCH_FRAMES * 6);
  }

  /** Bytes of a stretch of a track, interleaved; good until the next call. */
  code(track: number, stretch: number): Uint8Array {
    const address = this.places.sound(track, stretch);
    const { buffer } = this.sound.memory;
    if (this.format === 'f32') return new Uint8Array(buffer, address, STRETCH_FRAMES * FRAME_BYTES);
    this.kernel.encode24(address, this.room, 2 * STRETCH_FRAMES);
    return new Uint8Array(buffer, this.room, STRETCH_FRAMES * 6);
  }
}

/**
 * Renders an order in one thread until the end and the last tail.
 * @param write takes each stretch of stereo frames; the arrays are used again after it returns
 * @param progress told the share done, 0…1, after each stretch
 * @param sound the memory it works in
 * @param shares into how many the tracks are divided; it makes no difference to what is heard
 */
export function bounce(
  order: BounceOrder,
  write: (left: Float32Array, right: Float32Array) => void,
  progress: (share: number) => void,
  sound: SoundMemory = ownSoundMemory(),
  shares = 1,
): BounceFigures {
  const tracks = playedTracks(order);
  const address = sound.allocate(Stretches.bytes(tracks.length));
  try {
    const places = new Stretches(address, tracks);
    const renderers = divide(order, tracks, shares).map((own) => new BounceShare(order, own, places, sound));
    const mix = new BounceMix(order, places, sound);
    while (!mix.isOver) {
      for (const renderer of renderers) renderer.render();
      const { left, right } = mix.mix();
      write(left, right);
      progress(mix.share);
    }
    return mix.figures(renderers.reduce((sum, { stolen }) => sum + stolen, 0));
  } finally {
    sound.release(address);
  }
}

function isSilent(block: Float32Array): boolean {
  for (let i = 0; i < block.length; i++) if (block[i] > SILENT || block[i] < -SILENT) return false;
  return true;
}
