import { cos, sin } from '../units/index.ts';

/** Frames of the crossfade from one rendering to another: one block of the engine. */
const SWITCH_FRAMES = 128;
/** Frames over which playing begins and ends. */
const EDGE_FRAMES = 480;

/** A phrase as one contender plays it, rendered, with the gain that matches its loudness. */
export interface Rendering {
  left: Float32Array;
  right: Float32Array;
  gain: number;
}

/**
 * Plays one of several renderings of the same phrase, and goes over to another at the same place of it: within one block,
 * by an equal-power crossfade, without gap or click. Allocates nothing while it plays.
 */
export class Switcher {
  /** Frames from the phrase's beginning. */
  place = 0;
  /** Whether it begins again at its end. */
  repeat = false;
  private current: Rendering | undefined;
  private leaving: Rendering | undefined;
  /** Frames of the crossfade that are over. */
  private crossed = SWITCH_FRAMES;
  /** Level of the whole, moved towards 1 while playing and 0 while not. */
  private level = 0;
  private playing = false;

  /** True until the last frame after a stop has faded. */
  get sounds(): boolean {
    return this.playing || this.level > 0;
  }

  get isPlaying(): boolean {
    return this.playing;
  }

  /** Begins at a place with a rendering. What sounded is faded over at once. */
  start(rendering: Rendering, place: number): void {
    this.leaving = this.sounds ? this.current : undefined;
    this.crossed = 0;
    if (!this.leaving) this.level = 0;
    this.current = rendering;
    // What leaves goes on where it was for the length of the crossfade; a jump is heard as a cut, not as a click.
    this.leavingPlace = this.place;
    this.place = Math.max(0, Math.min(place, this.length));
    this.playing = true;
  }

  private leavingPlace = 0;

  /** Goes over to another rendering at the same place. */
  change(rendering: Rendering): void {
    if (rendering === this.current) return;
    // A change during a crossfade: what is nearly gone is let go.
    this.leaving = this.current;
    this.leavingPlace = this.place;
    this.crossed = 0;
    this.current = rendering;
  }

  /** Ends with a short fade; the place stays. */
  stop(): void {
    this.playing = false;
  }

  /** Adds the next frames [from, to) to the output. */
  process(outLeft: Float32Array, outRight: Float32Array, from: number, to: number): void {
    const { current } = this;
    if (!current || !this.sounds) return;
    const step = 1 / EDGE_FRAMES;
    for (let i = from; i < to; i++) {
      this.level = this.playing ? Math.min(1, this.level + step) : Math.max(0, this.level - step);
      // A stopped phrase stands still once it has faded.
      if (!this.playing && this.level === 0) return;
      let left = at(current.left, this.place) * current.gain;
      let right = at(current.right, this.place) * current.gain;
      if (this.crossed < SWITCH_FRAMES) {
        const x = ((this.crossed + 1) / SWITCH_FRAMES) * (Math.PI / 2);
        const come = sin(x);
        const go = cos(x);
        left *= come;
        right *= come;
        if (this.leaving) {
          left += at(this.leaving.left, this.leavingPlace) * this.leaving.gain * go;
          right += at(this.leaving.right, this.leavingPlace) * this.leaving.gain * go;
        }
        this.leavingPlace++;
        if (++this.crossed === SWITCH_FRAMES) this.leaving = undefined;
      }
      outLeft[i] += left * this.level;
      outRight[i] += right * this.level;
      this.place++;
      if (this.place < this.length) continue;
      if (this.repeat) this.place = 0;
      else {
        this.playing = false;
        this.level = 0;
        return;
      }
    }
  }

  private get length(): number {
    return this.current?.left.length ?? 0;
  }
}

function at(signal: Float32Array, place: number): number {
  return place < signal.length ? signal[place] : 0;
}
